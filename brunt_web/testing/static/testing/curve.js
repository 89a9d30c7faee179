// The curve's points: dragged with the pointer or moved with the arrow keys, reduced again by the server.
import { post } from "../interface/js/post.js";

const root = document.getElementById("curve");
let dragged = null;

async function send(fields, focus, url = root.querySelector("[data-curve]").dataset.pick) {
  const answer = await post(url, fields, { part: "curve" });
  if (answer.status !== 200 && answer.status !== 422) return;
  root.innerHTML = await answer.text();
  if (focus) root.querySelector(`[data-point="${focus}"]`)?.focus();
}

function millimetres(event) {
  const box = root.querySelector("[data-curve]");
  const plot = root.querySelector("[data-plot]");
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(plot.getScreenCTM().inverse());
  return (point.x - Number(box.dataset.origin)) / Number(box.dataset.perMm);
}

// Where the drawn line is at an x: a point moves along the curve, never off it.
function onCurve(x) {
  const points = root.querySelector("[data-drawn-line]").points;
  let last = points[0];
  for (const point of points) {
    if (point.x >= x) {
      const share = point.x > last.x ? (x - last.x) / (point.x - last.x) : 0;
      return last.y + (point.y - last.y) * Math.min(Math.max(share, 0), 1);
    }
    last = point;
  }
  return last.y;
}

// The next drawn reading at least so far away: an arrow never stays where it was between two readings.
function nextPoint(x, right, far) {
  const places = [...root.querySelector("[data-drawn-line]").points].map((point) => point.x);
  if (right) return places.find((place) => place >= x + far) ?? places.at(-1);
  return places.findLast((place) => place <= x - far) ?? places[0];
}

root.addEventListener("pointerdown", (event) => {
  const point = event.target.closest("[data-point]");
  if (!point) return;
  dragged = { key: point.dataset.point, element: point, start: millimetres(event), moved: 0 };
  point.setPointerCapture?.(event.pointerId);
  event.preventDefault();
  point.focus();
});
root.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  dragged.moved = millimetres(event) - dragged.start;
  const perMm = Number(root.querySelector("[data-curve]").dataset.perMm);
  const { x } = dragged.element.dataset;
  const to = Number(x) + dragged.moved * perMm;
  dragged.element.setAttribute("transform", `translate(${to - Number(x)},${onCurve(to) - onCurve(Number(x))})`);
});
root.addEventListener("pointerup", () => {
  if (!dragged) return;
  const { key, element, moved } = dragged;
  dragged = null;
  if (Math.abs(moved) > 1e-9) send({ pick: key, at: (Number(element.dataset.mm) + moved) / 1000 }, key);
});
root.addEventListener("keydown", (event) => {
  const point = event.target.closest("[data-point]");
  if (!point || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
  event.preventDefault();
  const perMm = Number(root.querySelector("[data-curve]").dataset.perMm);
  const x = Number(point.dataset.x);
  const step = (nextPoint(x, event.key === "ArrowRight", event.shiftKey ? 20 : 3) - x) / perMm;
  send({ pick: point.dataset.point, at: (Number(point.dataset.mm) + step) / 1000 }, point.dataset.point);
});
root.addEventListener("click", (event) => {
  const restore = event.target.closest("[data-restore]");
  if (restore) {
    event.preventDefault();
    send({}, restore.dataset.restore, restore.dataset.url);
  }
});
