// Levels as chips: the field keeps its semicolon text, the chips show and remove its parts.
const factors = document.querySelector("[data-factors]");
for (const row of document.querySelectorAll("[data-factor]")) prepare(row);

function prepare(row) {
  const name = row.querySelector("[name$=-name]");
  name.addEventListener("input", () => {
    name.dataset.own = "1";
  });
  for (const choice of row.querySelectorAll("select"))
    choice.addEventListener("change", () => {
      if (!name.dataset.own) name.value = "";
      settle(row);
    });
  enhance(row.querySelector("[data-chips]"));
  row.addEventListener("input", grow);
  settle(row);
}

function settle(row) {
  row.querySelector("[name$=-setting]").hidden = row.querySelector("select").value !== "setting";
}

// There is always one blank row: typing into the last makes the next.
function grow() {
  const rows = [...factors.querySelectorAll("[data-factor]")];
  const last = rows.at(-1);
  const used = [...last.querySelectorAll("input")].some((field) => field.value.trim());
  if (!used || rows.length >= 8) return;
  const next = Number(last.dataset.factor) + 1;
  const fresh = last.cloneNode(true);
  fresh.dataset.factor = next;
  fresh.querySelectorAll(".chips, .error-text").forEach((part) => part.remove());
  for (const field of fresh.querySelectorAll("[name]")) {
    field.name = field.name.replace(/^f-\d+/, `f-${next}`);
    field.setAttribute("aria-label", field.getAttribute("aria-label").replace(/\d+/, next + 1));
    if (field.tagName === "INPUT") {
      field.value = "";
      delete field.dataset.own;
    } else field.selectedIndex = 0;
  }
  last.after(fresh);
  prepare(fresh);
}

function parts(field) {
  return field.value
    .split(";")
    .map((part) => part.trim())
    .filter(Boolean);
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
  button.addEventListener("click", () => {
    set(
      field,
      parts(field)
        .filter((other) => other !== part)
        .join("; "),
    );
    draw();
    field.focus();
  });
  return button;
}

function set(field, text) {
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

// A change overtakes the answer to the one before: it must not put back what was just unticked.
const asking = document.querySelector("form.ask");
for (const kind of ["input", "change"])
  asking?.addEventListener(kind, () => window.htmx?.trigger(asking, "htmx:abort"), true);
