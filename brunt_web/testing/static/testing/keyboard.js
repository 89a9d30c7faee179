// What a key does at the bench, as a table of states. Nothing of the page is touched here: the page tells how it
// stands, and does what it is told. So every case is tested without a browser.

/**
 * @typedef {object} Standing how the page stands when Enter is pressed
 * @property {"control"|"figure"|"row"|"size"|"timed"|"field"|"elsewhere"} at what has the focus: a button, link or
 *   text area (`control`); the figure of a running test; a further row; a size; a timed reading; another field
 * @property {boolean} typed whether it has something in it
 * @property {boolean} more whether a further field is empty
 * @property {boolean} moreTimed whether a timed reading after this one is empty
 * @property {boolean} clock whether a clock is to be started
 * @property {boolean} question whether an implausible value still waits for an answer
 */

/** @type {[string, (now: Standing) => boolean][]} the first that applies; else the entry is stored */
const ENTER = [
  ["leave to the browser", (now) => now.at === "control"],
  ["take the reading", (now) => now.at === "figure"],
  ["add the row", (now) => now.at === "row" && now.typed],
  // Enter on an empty size goes nowhere: one that was pressed twice must not move what is typed next.
  ["stay", (now) => now.at === "size" && !now.typed && now.more],
  ["go to the next field", (now) => now.at !== "elsewhere" && now.more],
  ["go to the next timed reading", (now) => now.at === "timed" && now.moreTimed],
  ["start the clock", (now) => now.clock],
  ["go to the question", (now) => now.question],
];

/** @param {Standing} now */
export const enterDoes = (now) => ENTER.find(([, applies]) => applies(now))?.[0] ?? "store";

/**
 * Which part of the keyboard a key belongs to.
 * @param {{key: string, altKey?: boolean, ctrlKey?: boolean, metaKey?: boolean}} event
 * @param {{dialog: boolean, text: boolean}} where whether the focus is in a dialog or the line, or in a text field
 */
export function keyIs({ key, altKey, ctrlKey, metaKey }, { dialog, text }) {
  if (dialog || ctrlKey || metaKey) return "the browser’s";
  if (altKey) return "with Alt";
  if (key === "Enter" || key === "Tab") return key;
  if (text) return key === "Escape" ? "leave the field" : "typing";
  return "single";
}

/**
 * Which digit or letter is meant with Alt, also on a keyboard where Alt makes another sign of it.
 * @param {{key: string, code: string}} event
 */
export function withAlt({ key, code }) {
  const digit = code.match(/^(?:Digit|Numpad)([0-9])$/)?.[1];
  if (digit) return { digit };
  const letter = /^[a-z]$/i.test(key) ? key : code.match(/^Key([A-Z])$/)?.[1];
  return letter ? { letter: letter.toLowerCase() } : {};
}
