// Keys pressed while the server is still answering: kept in order, shown, and played into the fields of the
// specimen they were meant for, which is the one that comes next.
import { root } from "./screen.js";

const keys = []; // { key, shiftKey, at } for a key, { text, at } for what a paste or a screen keyboard brings
const SPECIAL = new Set(["Enter", "Tab", "Backspace", "Delete", "Escape"]);
let busy = 0; // requests under way that may bring another specimen
let asking = false; // a question or an error stands: keys typed ahead of it are not meant for it
let blocked = false; // the specimen in hand is not saved yet: what was typed ahead waits for the next one
let playing = null; // the key that is being played

const isText = (element) => element?.matches?.("input:not([type=radio], [type=checkbox]), textarea");
const meant = (target) => target === document.body || root.contains(target);
const captures = (event) => !playing && (busy > 0 || asking) && meant(event.target);

// When the key that is being handled was pressed; nothing outside a replay.
export const playedAt = () => playing?.at ?? null;
export const waiting = () => keys.length > 0;

// Keys are kept from now on, until as many calls of `release` have come.
export function hold() {
  busy += 1;
  asking = false;
  show();
}

export function release() {
  busy -= 1;
  play();
}

// Another specimen stands on the screen: what was typed ahead is meant for it.
export function moved() {
  blocked = asking = false;
}

// The specimen in hand needs an answer or a correction first.
export function stuck(question) {
  blocked = true;
  asking = question || keys.length > 0;
  show();
}

// Whether a question stands; it ends when it is answered or what was asked about is changed.
export const isAsking = () => asking;
export function answered() {
  asking = false;
  show();
}

// What was typed ahead and will find no field any more.
export function leftOver() {
  const text = words();
  keys.length = 0;
  show();
  return text;
}

function play() {
  while (keys.length && !busy && !asking && !blocked) {
    playing = keys.shift();
    try {
      stroke(playing);
    } finally {
      playing = null;
    }
  }
  show();
}

function stroke(one) {
  const target = document.activeElement ?? document.body;
  if (one.text !== undefined) {
    if (isText(target)) insert(target, one.text);
    return;
  }
  const event = new KeyboardEvent("keydown", { key: one.key, shiftKey: one.shiftKey, bubbles: true, cancelable: true });
  if (!target.dispatchEvent(event)) return;
  if (one.key === "Enter") {
    if (target.matches("button, a, summary")) target.click();
    else if (target.matches("textarea")) insert(target, "\n");
  } else if (isText(target)) edit(target, one.key);
}

function edit(field, key) {
  if (key === "Backspace") erase(field, -1);
  else if (key === "Delete") erase(field, 1);
  else if (key.length === 1) insert(field, key);
}

function insert(field, text) {
  field.setRangeText(text, field.selectionStart, field.selectionEnd, "end");
  field.dispatchEvent(new InputEvent("input", { bubbles: true, data: text, inputType: "insertText" }));
}

function erase(field, way) {
  let [from, to] = [field.selectionStart, field.selectionEnd];
  if (from === to) {
    if (way < 0) from = Math.max(0, from - 1);
    else to += 1;
  }
  field.setRangeText("", from, to, "end");
  field.dispatchEvent(new InputEvent("input", { bubbles: true, inputType: "deleteContentBackward" }));
}

function words() {
  const signs = { Enter: " ⏎ ", Tab: " ⇥ ", Backspace: "⌫", Delete: "⌦", Escape: "" };
  return keys
    .map((one) => one.text ?? signs[one.key] ?? one.key)
    .join("")
    .replace(/ +/g, " ")
    .trim();
}

function show() {
  const place = root.querySelector("[data-typed-ahead]");
  if (!place) return;
  place.hidden = !keys.length;
  const then = asking
    ? " Answer the question first, or press Esc to go back to the field."
    : blocked
      ? " It is entered for the next specimen once this one is saved."
      : "";
  place.querySelector("[data-typed-words]").textContent = keys.length ? `Typed ahead: ${words()}.${then}` : "";
}

function keep(event, one) {
  swallow(event);
  keys.push({ ...one, at: performance.now() });
  show();
}

function swallow(event) {
  event.preventDefault();
  event.stopImmediatePropagation();
}

// A key that types; what a keyboard composes comes by `beforeinput`.
function isOwnKey(event) {
  if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return false;
  return event.key.length === 1 || SPECIAL.has(event.key);
}

// Whether a key is for the question on screen: Escape goes back to the field, a button of it is pressed as ever.
function answers(event) {
  if (event.key === "Escape") {
    swallow(event);
    answered();
    root.dispatchEvent(new Event("brunt:back-to-field"));
    return true;
  }
  const pressed = event.target.closest("button, a, summary") && ["Enter", " ", "Tab"].includes(event.key);
  return !keys.length && !event.repeat && pressed;
}

window.addEventListener(
  "keydown",
  (event) => {
    if (!captures(event) || !isOwnKey(event)) return;
    if (asking && !busy && answers(event)) return;
    if (event.key === "Enter" && event.repeat) {
      swallow(event);
      return;
    }
    keep(event, { key: event.key, shiftKey: event.shiftKey });
  },
  true,
);

window.addEventListener(
  "beforeinput",
  (event) => {
    if (!captures(event)) return;
    if (event.inputType === "insertLineBreak" || event.inputType === "insertParagraph") keep(event, { key: "Enter" });
    else if (event.inputType === "deleteContentBackward") keep(event, { key: "Backspace" });
    else if (event.data ?? event.dataTransfer)
      keep(event, { text: event.data ?? event.dataTransfer.getData("text/plain") });
  },
  true,
);

// A field that is pressed on purpose is meant, whatever stands there as a question.
root.addEventListener(
  "pointerdown",
  (event) => {
    if (asking && isText(event.target)) answered();
  },
  true,
);
root.addEventListener("click", (event) => {
  if (event.target.closest("[data-drop-typed]")) {
    keys.length = 0;
    asking = false;
    show();
  }
});
