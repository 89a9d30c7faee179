// The load case while it is drawn: R turns the layers, C chooses, the fields follow the way it is loaded.

const form = document.querySelector("#load-case");
const typing = () => document.activeElement?.matches("input:not([type=radio]), select, textarea");

function turn() {
  const other = form.querySelector("[name=direction]:not(:checked)");
  other.checked = true;
  form.dispatchEvent(new Event("turned"));
}

form.querySelector("[data-turn]").addEventListener("click", turn);

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing()) return;
  if (event.key === "r") turn();
  if (event.key === "c") document.querySelector("[data-choose]")?.click();
});

// What is wrong stands beside its field; what was typed stays.
document.addEventListener("htmx:afterSettle", () => {
  const said = document.querySelector("#load-case-problems");
  if (!said) return;
  const problems = JSON.parse(said.textContent);
  for (const field of form.querySelectorAll("[data-quantity]")) {
    const note = form.querySelector(`#${field.id}-problem`);
    note.textContent = problems[field.id] ?? "";
    field.toggleAttribute("aria-invalid", Boolean(problems[field.id]));
  }
});

// The drawing is taken hold of: the load, the reach and the depth follow the pointer, in the unit that was typed.
const START = {
  load: { torsion: "2 N·m", blow: "2 J", other: "100 N" },
  arm: { other: "50 mm" },
  span: { other: "80 mm" },
  thickness: { other: "5 mm" },
};
const STEP = 120;
let held = null;

function begin(key) {
  const mode = form.querySelector("[name=mode]:checked")?.value;
  return START[key][mode] ?? START[key].other;
}

form.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest("[data-drag]");
  const field = handle && form.querySelector(`#${handle.dataset.drag}`);
  if (!field) return;
  if (!field.value.trim()) field.value = begin(handle.dataset.drag);
  const read = /^(\D*?)(\d+(?:[.,]\d+)?)(.*)$/su.exec(field.value);
  if (!read) return;
  event.preventDefault();
  held = {
    field,
    lead: read[1],
    from: Number(read[2].replace(",", ".")),
    comma: read[2].includes(","),
    rest: read[3],
    x: event.clientX,
    y: event.clientY,
    way: handle.dataset.way,
  };
});

document.addEventListener("pointermove", (event) => {
  if (!held) return;
  const far = { up: held.y - event.clientY, down: event.clientY - held.y, across: event.clientX - held.x }[held.way];
  const number = Number((held.from * Math.exp(far / STEP)).toPrecision(3)).toString();
  held.field.value = held.lead + (held.comma ? number.replace(".", ",") : number) + held.rest;
  held.field.dispatchEvent(new Event("input", { bubbles: true }));
});

for (const name of ["pointerup", "pointercancel"])
  document.addEventListener(name, () => {
    held = null;
  });
