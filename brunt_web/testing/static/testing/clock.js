// Clocks: what the server says has passed, carried on here; it prompts when a reading is due.
import { said } from "../interface/js/said.js";

let begun = performance.now();
let asked = "";

export function restart() {
  begun = performance.now();
  asked = "";
  tick();
}

const passed = () => (performance.now() - begun) / 1000;

export function words(seconds) {
  const s = Math.abs(seconds);
  const text = said(
    s < 100
      ? `${Number.isInteger(s) || s >= 20 ? Math.round(s) : s.toFixed(1)} s`
      : s < 3600
        ? `${Math.floor(s / 60)} min ${Math.floor(s % 60)} s`
        : s < 172800
          ? `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`
          : `${(s / 86400).toFixed(1)} d`,
  );
  return text;
}

function tick() {
  const holder = document.querySelector("[data-timed][data-elapsed], [data-clockline][data-elapsed]");
  if (holder) running(holder, Number(holder.dataset.elapsed) + passed());
  for (const span of document.querySelectorAll("[data-left]")) {
    const left = Number(span.dataset.left) - passed();
    const now = Math.abs(left) < 2;
    span.textContent = now
      ? "due now"
      : left > 0
        ? `due in ${words(Math.round(left))}`
        : `late by ${words(Math.round(left))}`;
    span.classList.toggle("hot", left <= 0);
  }
}

// What is written beside a reading that is due in so many seconds, and the little of it that is spoken.
function prompted(left) {
  if (left > 3) return { say: `read in ${words(left)}`, spoken: "waiting" };
  if (left > 0) return { say: "get ready", spoken: "get ready" };
  return left > -10 ? { say: "read now", spoken: "read now" } : { say: `late by ${words(left)}`, spoken: "late" };
}

function running(holder, elapsed) {
  const digits = holder.querySelector("[data-digits]");
  if (digits) digits.textContent = words(elapsed);
  const prompt = holder.querySelector("[data-prompt]");
  const target = Number(prompt?.dataset.target ?? holder.dataset.target);
  for (const cell of holder.querySelectorAll("[data-left-of]")) {
    const left = Number(cell.dataset.leftOf) - elapsed;
    cell.textContent = left > 0 ? `in ${words(left)}` : "due";
  }
  if (!prompt || Number.isNaN(target)) return;
  const left = target - elapsed;
  const { say, spoken } = prompted(left);
  holder.classList.toggle("is-due", left <= 0);
  if (prompt.getAttribute("aria-live") !== "off") prompt.setAttribute("aria-live", "off");
  prompt.textContent = say;
  if (spoken !== asked) {
    asked = spoken;
    document.querySelector("[data-announce]")?.replaceChildren(spoken === "waiting" ? "" : spoken);
  }
}

setInterval(tick, 200);
