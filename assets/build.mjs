// Builds what ships: five stylesheets (every page; planning and lives; Compare; Decide; reports), the fonts, htmx. `npm run build [-- TARGET]`.
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync } from "node:fs";
import { join } from "node:path";

const target = process.argv[2] ?? "brunt_web/interface/static/interface";
const modules = "node_modules";
const fonts = {
  "archivo.woff2": "@fontsource-variable/archivo/files/archivo-latin-wdth-normal.woff2",
  "source-sans.woff2": "@fontsource-variable/source-sans-3/files/source-sans-3-latin-wght-normal.woff2",
  "source-sans-greek.woff2": "@fontsource-variable/source-sans-3/files/source-sans-3-greek-wght-normal.woff2",
  "stix.woff2": "@fontsource/stix-two-text/files/stix-two-text-latin-400-italic.woff2",
  "stix-greek.woff2": "@fontsource/stix-two-text/files/stix-two-text-greek-400-italic.woff2",
};

mkdirSync(join(target, "fonts"), { recursive: true });
mkdirSync(join(target, "js"), { recursive: true });
for (const [name, source] of Object.entries(fonts)) cpSync(join(modules, source), join(target, "fonts", name));
cpSync(join(modules, "htmx.org/dist/htmx.min.js"), join(target, "js/htmx.min.js"));
for (const sheet of ["app.css", "planning.css", "comparing.css", "deciding.css", "publishing.css"]) {
  execFileSync(join(modules, ".bin/tailwindcss"),
    ["-i", join("assets", sheet), "-o", join(target, sheet), "--minify"], { stdio: "inherit" });
}
