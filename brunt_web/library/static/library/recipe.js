// Recipes: read a G-code file and offer what it says, field by field; the cut answers while one types.

import { said } from "../interface/js/said.js";
import { follow, shown } from "../jobs/follow.js";
import { post, token } from "../interface/js/post.js";

const box = document.querySelector("[data-gcode]");
const zone = box.querySelector(".drop-zone");
const says = box.querySelector("[data-gcode-says]");
const found = box.querySelector("[data-gcode-found]");
const progress = box.querySelector("[data-progress]");
const field = (key) => document.querySelector(`[data-recipe] [name="${key}"]`);

zone.addEventListener("dragover", (event) => {
  event.preventDefault();
  zone.classList.add("over");
});
zone.addEventListener("dragleave", () => zone.classList.remove("over"));
zone.addEventListener("drop", (event) => {
  event.preventDefault();
  zone.classList.remove("over");
  read(event.dataTransfer.files[0]);
});
zone.querySelector("input").addEventListener("change", (event) => {
  const file = event.target.files[0];
  event.target.value = ""; // so that the same file can be chosen again
  read(file);
});

function read(file) {
  if (!file) return;
  const body = new FormData();
  body.append("gcode", file);
  body.append("kind", box.dataset.kind);
  const request = new XMLHttpRequest();
  progress.hidden = false;
  says.textContent = `Reading ${file.name} …`;
  request.upload.addEventListener("progress", (event) => {
    progress.max = event.total;
    progress.value = event.loaded;
  });
  request.addEventListener("load", async () => {
    const answer =
      request.status === 202 ? await behind(JSON.parse(request.responseText).job) : JSON.parse(request.responseText);
    progress.hidden = true;
    show(answer, file.name);
  });
  request.addEventListener("error", () => {
    progress.hidden = true;
    says.textContent = "The server cannot be reached; the form is untouched.";
  });
  request.open("POST", box.dataset.gcode);
  request.setRequestHeader("X-CSRFToken", token());
  request.send(body);
}

// A large file is read by the worker: the bar goes on, and it can be cancelled here.
async function behind(job) {
  const stop = button("Cancel", () => post(`${job}cancel/`, {}, { part: "job" }), "btn quiet");
  found.replaceChildren(stop);
  await follow(job, shown(progress, says));
  stop.remove();
  return (await fetch(`${job}answer/`, { headers: { "X-Part": "job" } })).json();
}

function show(answer, name) {
  found.replaceChildren();
  says.classList.toggle("error-text", Boolean(answer.error));
  if (answer.error) {
    says.textContent = answer.error;
    return;
  }
  const extra = [
    answer.filament_m && `${said(answer.filament_m.toFixed(2))} m of filament`,
    answer.seconds && `${Math.round(answer.seconds / 60)} min estimated`,
  ].filter(Boolean);
  says.textContent = [`${name}: ${answer.lines} lines read, ${answer.found.length} settings found`, ...extra].join(
    "; ",
  );
  answer.found.forEach((one) => found.append(row(one)));
  const empty = answer.found.filter((one) => !one.problem && field(one.key) && !field(one.key).value);
  if (empty.length) found.append(button(`Fill the ${empty.length} empty fields`, () => empty.forEach(put), "btn main"));
}

function put(one) {
  field(one.key).value = one.text;
  field(one.key).dispatchEvent(new Event("input", { bubbles: true }));
}

function row(one) {
  const line = document.createElement("p");
  const now = field(one.key)?.value;
  line.append(
    `${one.label}: ${one.text} `,
    Object.assign(document.createElement("span"), { className: "soft", textContent: `(${one.where}) ` }),
  );
  if (one.problem)
    line.append(Object.assign(document.createElement("span"), { className: "error-text", textContent: one.problem }));
  else if (now && now !== one.text) line.append(button(`replace ${now}`, () => put(one), "btn"));
  return line;
}

function button(text, act, style) {
  const made = Object.assign(document.createElement("button"), { type: "button", textContent: text, className: style });
  made.addEventListener("click", () => {
    act();
    made.disabled = true;
  });
  return made;
}

// The cut answers while one types: a field lights what it acts on, arrows step its number.
const sheet = document.querySelector("[data-recipe]");
const lit = sheet.querySelector(".cutsheet");
const WALK = ["nozzle", "wall", "top", "fan", "infill", "line", "layer", "first", "bottom", "bed", "lift", "light"];

function light(part) {
  lit.dataset.lit = part || "";
}

function was() {
  const drawn = document.getElementById("drawn");
  const known = JSON.parse(drawn.dataset.was || "{}");
  for (const place of sheet.querySelectorAll("[data-was-of]")) {
    const before = known[place.dataset.wasOf];
    place.textContent = before === undefined ? "" : before ? `was ${before}` : "was open";
    place.previousElementSibling?.classList.toggle("changed", before !== undefined);
  }
}

function stepped(input, up) {
  const step = Number(input.dataset.step);
  const found = /^(-?\d+(?:[.,]\d+)?)(.*)$/.exec(input.value.trim());
  if (!step || (!found && input.value.trim())) return false;
  const digits = (String(step).split(".")[1] || "").length;
  const now = found ? Number(found[1].replace(",", ".")) : 0;
  const places = Math.max(digits, ((found?.[1] || "").split(/[.,]/)[1] || "").length);
  input.value = `${Math.max(now + (up ? step : -step), 0).toFixed(places)}${found ? found[2] : ""}`;
  input.dispatchEvent(new Event("input", { bubbles: true }));
  return true;
}

sheet.addEventListener("focusin", (event) => light(event.target.dataset.acts));
sheet.addEventListener("focusout", () => light(""));
sheet.addEventListener("keydown", (event) => {
  const input = event.target;
  if (input.dataset.step && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    if (stepped(input, event.key === "ArrowUp")) event.preventDefault();
  }
  if (input.closest("[data-cut]")) walk(event);
});

function walk(event) {
  const there = WALK.filter((part) => sheet.querySelector(`input[data-acts="${part}"]`));
  const move = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
  if (move) {
    event.preventDefault();
    const at = there.indexOf(lit.dataset.lit);
    light(there[at < 0 ? (move > 0 ? 0 : there.length - 1) : (at + move + there.length) % there.length]);
  } else if (event.key === "Enter" && lit.dataset.lit) {
    event.preventDefault();
    const field = sheet.querySelector(`input[data-acts="${lit.dataset.lit}"]`);
    field.focus();
    field.select();
  }
}

document.addEventListener("keydown", (event) => {
  if (event.target.closest("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
  const to = { "[": sheet.dataset.older, "]": sheet.dataset.newer }[event.key];
  if (to) location.assign(to);
});

document.addEventListener("htmx:afterSettle", was);
was();
