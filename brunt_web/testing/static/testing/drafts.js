// What is typed for a specimen and not stored stays with it: over a skip, a reload, the start of a clock.
const KEY = (code) => `brunt-draft:${document.getElementById("outbox")?.dataset.user ?? ""}:${code}`;
const PARTS = "[data-reading], [data-size], [data-more], #note, #reason, #untimely, #noted_speed";

// Remember what stands in the form; nothing typed leaves nothing behind.
export function keep(form) {
  if (form.elements.correct) return;
  const held = {};
  for (const field of form.querySelectorAll(PARTS))
    if (field.name && field.value.trim() && field.value !== field.defaultValue) held[field.name] = field.value;
  for (const name of ["outcome", "place", "mode"]) {
    const radio = form.querySelector(`[name=${name}]:checked`);
    if (radio && !radio.defaultChecked) held[name] = radio.value;
  }
  try {
    if (Object.keys(held).length) sessionStorage.setItem(KEY(form.dataset.base), JSON.stringify(held));
    else sessionStorage.removeItem(KEY(form.dataset.base));
  } catch {
    /* a full or forbidden store loses the draft, nothing else */
  }
}

export function drop(form) {
  try {
    sessionStorage.removeItem(KEY(form.dataset.base));
  } catch {
    /* as above */
  }
}

// Put back what was typed where the field is empty; true when something came back.
export function restore(form) {
  if (form.elements.correct) return false;
  let held;
  try {
    held = JSON.parse(sessionStorage.getItem(KEY(form.dataset.base))) ?? {};
  } catch {
    return false;
  }
  let back = false;
  for (const field of form.querySelectorAll(PARTS)) {
    if (!(field.name in held) || field.value.trim()) continue;
    field.value = held[field.name];
    back = true;
  }
  for (const name of ["outcome", "place", "mode"]) {
    const radio = held[name] && form.querySelector(`[name=${name}][value="${CSS.escape(held[name])}"]`);
    if (radio && !radio.checked) {
      radio.checked = true;
      back = true;
    }
  }
  return back;
}
