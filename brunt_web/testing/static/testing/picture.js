// Picking on a photo: points are set by pressing, moved by dragging or with the arrow keys; the server works them out.
import { post, token } from "../interface/js/post.js";

const root = document.getElementById("picture");
const svg = root.querySelector("svg");
const marks = root.querySelector("[data-marks]");
const list = root.querySelector("[data-list]");
const rows = JSON.parse(document.getElementById("picture-rows").textContent);
const fields = JSON.parse(document.getElementById("picture-fields").textContent);
const KINDS = { scale: "Scale", length: "Length", angle: "Angle", area: "Outline" };
const HINTS = {
  scale: "Press both ends of something whose length you know.",
  angle:
    "Press the pivot, then the end that swung. The angle is from straight down; two more picks set a plumb line where the camera leaned.",
  length: "Press along what is measured; Enter ends it.",
  area: "Press round the outline; Enter closes it.",
};
const DIMENSIONS = { length: "length", angle: "angle", area: "area" };
let tool = "";
let open = null; // the row that picks are being added to
/** @type {any} */
let chosen = null; // [row, pick] under the arrow keys
/** @type {any} */
let dragged = null;
let answers = { said: [], problems: [], doubts: [] };
let unsaved = false;

// Marks are as large on a telephone as on a desk: ten pixels of the screen, in pixels of the photo.
const unit = () => 10 / (svg.getScreenCTM()?.a || 1);
/** @returns {[number, number]} */
const place = (event) => {
  const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  return [p.x, p.y];
};
/** @returns {[number, number]} */
const inside = ([x, y]) => [
  Math.min(Math.max(x, 0), Number(root.dataset.wide)),
  Math.min(Math.max(y, 0), Number(root.dataset.high)),
];

function begin(kind) {
  end();
  tool = kind;
  for (const b of root.querySelectorAll("[data-tool]")) b.setAttribute("aria-pressed", String(b.dataset.tool === kind));
  hint(HINTS[kind] ?? "Choose a tool.");
}

function end() {
  if (open && open.picks.length < 2) rows.splice(rows.indexOf(open), 1);
  open = null;
  tool = "";
  for (const b of root.querySelectorAll("[data-tool]")) b.setAttribute("aria-pressed", "false");
  root.querySelector("[data-done]").hidden = true;
  hint("Drag a pick to move it, or choose it and press the arrow keys.");
  draw();
  look();
}

const hint = (text) => {
  root.querySelector("[data-hint]").textContent = text;
};

function add(at) {
  if (!open) {
    open = { kind: tool, name: "", text: "", picks: [] };
    rows.push(open);
  }
  open.picks.push(inside(at));
  unsaved = true;
  const full = open.kind === "scale" ? 2 : open.kind === "angle" ? 4 : 60;
  chosen = [open, open.picks.length - 1];
  root.querySelector("[data-done]").hidden = false;
  if (open.picks.length >= full) end();
  else {
    if (open.kind === "angle" && open.picks.length === 2)
      hint("Enter ends it; or press the top, then the bottom of a plumb line.");
    draw();
    look();
  }
  if (rows.at(-1)?.kind === "scale") list.lastElementChild?.querySelector("[name=text]")?.focus();
}

const element = (name, attributes) => {
  const e = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, v);
  return e;
};

function draw() {
  marks.replaceChildren();
  const r = unit() * 0.7;
  rows.forEach((row, i) => {
    const group = element("g", { class: `pic-mark pic-${row.kind}` });
    const path = (points, closed) => `M${points.map((p) => p.join(",")).join("L")}${closed ? "Z" : ""}`;
    if (row.kind === "angle") {
      const [pivot, far, top, bottom] = row.picks;
      const down =
        top && bottom
          ? [top, bottom]
          : pivot && [pivot, [pivot[0], Math.min(pivot[1] + Number(root.dataset.high) / 4, Number(root.dataset.high))]];
      if (pivot && far) group.append(element("path", { d: path([pivot, far]), "stroke-width": unit() / 4 }));
      if (down) group.append(element("path", { d: path(down), class: "pic-plumb", "stroke-width": unit() / 6 }));
    } else
      group.append(
        element("path", { d: path(row.picks, row.kind === "area" && row !== open), "stroke-width": unit() / 4 }),
      );
    row.picks.forEach(([x, y], n) => {
      const on = chosen?.[0] === row && chosen[1] === n;
      const spot = element("g", {
        transform: `translate(${x},${y})`,
        "data-spot": `${i} ${n}`,
        class: on ? "is-on" : "",
        tabindex: "0",
        role: "button",
        "aria-label": `Pick ${n + 1} of ${KINDS[row.kind]} ${i + 1}`,
      });
      spot.append(
        element("circle", { r: unit() * 1.4, class: "pic-hit" }),
        element("circle", { r, "stroke-width": unit() / 6 }),
        element("path", { d: `M${-r * 1.6},0H${r * 1.6}M0,${-r * 1.6}V${r * 1.6}`, "stroke-width": unit() / 12 }),
      );
      group.append(spot);
    });
    const [x, y] = row.picks[0] ?? [0, 0];
    const label = element("text", { x: x + r * 1.8, y: y - r * 1.2, "font-size": unit() * 1.6 });
    label.textContent = i + 1;
    group.append(label);
    marks.append(group);
  });
  tell();
}

function tell() {
  const typing = document.querySelector("[data-list] :focus");
  const at = typing && [typing.closest("li").dataset.row, typing.name];
  list.replaceChildren(
    ...rows.map((row, i) => {
      const li = document.createElement("li");
      li.dataset.row = i;
      const name = field("name", row.name, `${KINDS[row.kind]} ${i + 1}`, "what it is");
      li.append(name);
      if (row.kind === "scale") li.append(field("text", row.text, "apart", "50 mm"));
      const said = document.createElement("b");
      said.textContent = answers.said[i] ?? "";
      const problem = document.createElement("span");
      problem.className = "error-text";
      problem.textContent = answers.problems[i] ?? "";
      const off = document.createElement("button");
      off.type = "button";
      off.className = "linkish";
      off.textContent = "Remove";
      off.dataset.off = i;
      li.append(said, problem, off);
      const fit = fields.filter((f) => f.dimension === DIMENSIONS[row.kind]);
      if (row.key && answers.said[i] && fit.length) li.append(into(row, fit));
      return li;
    }),
  );
  if (at) list.querySelector(`[data-row="${at[0]}"] [name="${at[1]}"]`)?.focus();
  root.querySelector("[data-doubts]").textContent = (answers.doubts ?? []).join(" ");
}

function field(name, value, label, hintText) {
  const box = document.createElement("label");
  box.textContent = `${label} `;
  const input = document.createElement("input");
  Object.assign(input, { className: "plain-input", name, value, placeholder: hintText, maxLength: 60 });
  box.append(input);
  return box;
}

function into(row, fit) {
  const form = document.createElement("form");
  form.method = "post";
  form.action = `${root.dataset.keep.replace(/keep\/$/, "")}${row.key}/`;
  const hidden = document.createElement("input");
  Object.assign(hidden, { type: "hidden", name: "csrfmiddlewaretoken", value: token() });
  const select = document.createElement("select");
  select.name = "field";
  select.className = "plain-input";
  select.setAttribute("aria-label", "Field at the bench");
  for (const f of fit) select.append(new Option(f.label, `${f.at}|${f.key}`));
  const go = document.createElement("button");
  go.className = "btn quiet";
  go.textContent = "Put it there";
  form.append(hidden, select, go);
  return form;
}

let asked = 0;
async function look() {
  const mine = (asked += 1);
  try {
    const answer = await post(root.dataset.look, { rows: JSON.stringify(rows) });
    const told = await answer.json();
    if (mine !== asked) return;
    if (answer.ok) answers = told;
    else say(told.error);
    tell();
  } catch {
    say("The server cannot be reached; the picks stay on this page.");
  }
}

const say = (text) => {
  root.querySelector("[data-said]").textContent = text;
};

async function keep() {
  end();
  try {
    const answer = await post(root.dataset.keep, { rows: JSON.stringify(rows), seen: root.dataset.seen });
    const told = await answer.json();
    root.dataset.seen = told.seen ?? root.dataset.seen;
    if (!answer.ok) {
      say(told.error);
      return;
    }
    told.keys.forEach((key, i) => {
      rows[i].key = key;
    });
    unsaved = false;
    say("Kept with the photo.");
    await look();
  } catch {
    say("The server cannot be reached; nothing was kept yet.");
  }
}

svg.addEventListener("pointerdown", (event) => {
  event.preventDefault();
  svg.focus({ preventScroll: true });
  const spot = event.target.closest("[data-spot]");
  if (spot && !open) {
    const [i, n] = spot.dataset.spot.split(" ").map(Number);
    chosen = dragged = [rows[i], n];
    svg.setPointerCapture(event.pointerId);
    draw();
  } else if (tool) add(place(event));
});
svg.addEventListener("pointermove", (event) => {
  if (dragged) {
    dragged[0].picks[dragged[1]] = inside(place(event));
    unsaved = true;
    draw();
  }
});
svg.addEventListener("pointerup", () => {
  if (dragged) {
    dragged = null;
    look();
  }
});
svg.addEventListener("focusin", (event) => {
  const spot = event.target.closest?.("[data-spot]");
  if (spot) {
    const [i, n] = spot.dataset.spot.split(" ").map(Number);
    chosen = [rows[i], n];
  }
});

list.addEventListener("input", (event) => {
  rows[Number(event.target.closest("li").dataset.row)][event.target.name] = event.target.value;
  unsaved = true;
  clearTimeout(list.wait);
  list.wait = setTimeout(look, 250);
});
list.addEventListener("click", (event) => {
  const { off } = event.target.dataset;
  if (off !== undefined) {
    rows.splice(Number(off), 1);
    chosen = null;
    unsaved = true;
    draw();
    look();
  }
});
root.addEventListener("click", (event) => {
  const button = event.target.closest("[data-tool]");
  if (button) begin(button.dataset.tool);
  if (event.target.closest("[data-done]")) end();
  if (event.target.closest("[data-store]")) keep();
});
document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (way && chosen) {
    const step = event.shiftKey ? 10 : 1;
    const [row, n] = chosen;
    row.picks[n] = inside([row.picks[n][0] + way[0] * step, row.picks[n][1] + way[1] * step]);
    unsaved = true;
    draw();
    look();
    event.preventDefault();
  } else if (event.key === "Enter" && open) {
    end();
    event.preventDefault();
  } else if (event.key === "Escape") end();
  else {
    const kind = { s: "scale", a: "angle", l: "length", o: "area" }[event.key.toLowerCase()];
    if (kind) begin(kind);
  }
});
window.addEventListener("beforeunload", (event) => {
  if (unsaved) event.preventDefault();
});
root.addEventListener("submit", () => {
  unsaved = false;
});

draw();
look();
new ResizeObserver(() => draw()).observe(svg);
