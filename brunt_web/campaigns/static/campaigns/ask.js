// Levels as chips: the field keeps its semicolon text, the chips show and remove its parts.
for (const field of document.querySelectorAll("[data-chips]")) enhance(field);
for (const row of document.querySelectorAll("[data-factor]")) {
  const kind = row.querySelector("select");
  kind.addEventListener("change", () => { row.querySelector("[name$=-name]").value = ""; settle(row); });
  row.querySelector("[name$=-setting]").addEventListener("change", () => { row.querySelector("[name$=-name]").value = ""; });
  settle(row);
}

function settle(row) {
  row.querySelector("[name$=-setting]").hidden = row.querySelector("select").value !== "setting";
}

function parts(field) {
  return field.value.split(";").map((part) => part.trim()).filter(Boolean);
}

function enhance(field) {
  const chips = document.createElement("span");
  chips.className = "chips";
  field.after(chips);
  const draw = () => chips.replaceChildren(...parts(field).map((part) => chip(field, part, draw)));
  field.addEventListener("input", draw);
  field.addEventListener("keydown", (event) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    if (parts(field).length) set(field, `${parts(field).join("; ")}; `);
  });
  draw();
}

function chip(field, part, draw) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "chip";
  button.textContent = `${part} ×`;
  button.setAttribute("aria-label", `Remove level ${part}`);
  button.addEventListener("click", () => { set(field, parts(field).filter((other) => other !== part).join("; ")); draw(); field.focus(); });
  return button;
}

function set(field, text) {
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

// A change overtakes the answer to the one before: it must not put back what was just unticked.
const asking = document.querySelector("form.ask");
for (const kind of ["input", "change"]) asking?.addEventListener(kind, () => window.htmx?.trigger(asking, "htmx:abort"), true);
