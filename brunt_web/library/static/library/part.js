// A press on a view marks what is chosen: two coordinates from there; the server finds the third on the surface.
const form = document.querySelector("[data-marks]");

function coordinates(event) {
  const view = event.target.closest("[data-view]");
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(view.getScreenCTM().inverse());
  return { [view.dataset.right]: at.x, [view.dataset.up]: -at.y };
}

function fill(fields, found) {
  for (const axis of ["x", "y", "z"]) fields[axis].value = axis in found ? found[axis].toFixed(2) : "";
}

function named(prefix) {
  return Object.fromEntries(["x", "y", "z"].map((axis) => [axis, form.elements[`${prefix}${axis}`]]));
}

function place(found) {
  const rows = [...form.querySelectorAll(".placerow")];
  const row = rows.length - 1;
  fill(named(`place-${row}-`), found);
  const name = form.elements[`place-${row}-name`];
  name.focus();
  return Boolean(name.value);
}

function section(found) {
  const axis = form.elements.section_axis;
  if (!(axis.value in found)) axis.value = "y" in found ? "y" : Object.keys(found)[0];
  form.elements.section_at.value = found[axis.value].toFixed(2);
  return true;
}

document.querySelector(".part-sheet").addEventListener("click", (event) => {
  if (!event.target.closest(".t-press")) return;
  const found = coordinates(event);
  const tool = form.elements.tool.value;
  const ready =
    tool === "place" ? place(found) : tool === "section" ? section(found) : (fill(named("load_"), found), true);
  if (ready) form.requestSubmit();
});
