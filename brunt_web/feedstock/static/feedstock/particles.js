// Two clicks on a ruler give the scale; a click on an outline takes a stray off, or on again.
import { post } from "../interface/js/post.js";

const picture = document.querySelector("[data-picture]");
const ruler = picture.querySelector("[data-ruler]");
const form = document.querySelector("[data-scale]");
let points = [];

const NS = "http://www.w3.org/2000/svg";

function draw() {
  ruler.replaceChildren();
  for (const [x, y] of points) {
    const dot = document.createElementNS(NS, "circle");
    dot.setAttribute("cx", x);
    dot.setAttribute("cy", y);
    dot.setAttribute("r", String(picture.viewBox.baseVal.width / 160));
    dot.classList.add("fl-dot");
    ruler.append(dot);
  }
  if (points.length === 2) {
    const line = document.createElementNS(NS, "path");
    line.setAttribute("d", `M${points[0].join()} L${points[1].join()}`);
    line.classList.add("fl-rule");
    ruler.append(line);
  }
  ["x1", "y1", "x2", "y2"].forEach((name, i) => {
    form.querySelector(`[name=${name}]`).value = points[i >> 1]?.[i & 1]?.toFixed(1) ?? "";
  });
  if (points.length === 2) form.querySelector("[name=length]").focus();
}

async function stray(outline) {
  const answer = await post(picture.dataset.stray, { index: outline.dataset.index });
  if (answer.ok) location.reload();
}

picture.addEventListener("click", (event) => {
  const outline = event.target.closest("polygon");
  if (outline) {
    stray(outline);
    return;
  }
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(picture.getScreenCTM().inverse());
  points = points.length === 2 ? [[at.x, at.y]] : [...points, [at.x, at.y]];
  draw();
});

picture.addEventListener("keydown", (event) => {
  const outline = event.target.closest("polygon");
  if (outline && (event.key === "Enter" || event.key === "Delete")) {
    event.preventDefault();
    stray(outline);
  }
});
