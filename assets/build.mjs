// Builds what ships: five stylesheets (every page; planning, printing, treating and the library; Compare; Decide; reports), the fonts, htmx. `npm run build [-- TARGET]`.
import { execFileSync } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import subsetFont from "subset-font";

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
// Only what is set in them, in the widths and weights in use. Letters beyond plain English lie in files of
// their own, which a browser fetches where a page has one (unicode-range in fonts.css).
const span = (from, to) => Array.from({ length: to - from + 1 }, (_, i) => String.fromCodePoint(from + i)).join("");
const plain = span(0x20, 0x7e) + "Øø\u00a0°±²³µ·×÷½–—‘’“”…←↑→↓≈−√≤≥\u2009\u202f";
const beyond = span(0xa0, 0x17f) + span(0x2010, 0x203a) + span(0x2070, 0x209c) + "€™←↑↓↔∑∞≈≠◊ﬁﬂ";
const greek = span(0x391, 0x3c9);
const formula = span(0x20, 0x7e) + "·×÷±²³½°−√∑∞≈≤≥′″⁻¹⁴₀₁₂₃₄\u2009\u202f";
const axes = {
  archivo: { wdth: { min: 72, max: 100 }, wght: { min: 400, max: 800 } },
  source: { wght: { min: 400, max: 700 } },
  stix: undefined,
};
const letters = { "stix.woff2": formula, "stix-greek.woff2": greek, "source-sans-greek.woff2": greek };
for (const [name, source] of Object.entries(fonts)) {
  const whole = readFileSync(join(modules, source));
  const options = { targetFormat: "woff2", variationAxes: axes[name.split(/[-.]/)[0]] };
  const cut = letters[name] ? { [name]: letters[name] } : { [name]: plain, [name.replace(".", "-beyond.")]: beyond };
  for (const [file, text] of Object.entries(cut))
    writeFileSync(join(target, "fonts", file), await subsetFont(whole, text, options));
}
for (const sheet of ["app.css", "work.css", "compare.css", "decide.css", "report.css"]) {
  execFileSync(
    join(modules, ".bin/tailwindcss"),
    ["-i", join("assets", sheet), "-o", join(target, sheet), "--minify"],
    { stdio: "inherit" },
  );
}
