// The duty while it is drawn: R turns the layers, C chooses, the fields follow the way it is loaded.

const form = document.querySelector("#duty");
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
  const said = document.querySelector("#duty-problems");
  if (!said) return;
  const problems = JSON.parse(said.textContent);
  for (const field of form.querySelectorAll("[data-quantity]")) {
    const note = form.querySelector(`#${field.id}-problem`);
    note.textContent = problems[field.id] ?? "";
    field.toggleAttribute("aria-invalid", Boolean(problems[field.id]));
  }
});
