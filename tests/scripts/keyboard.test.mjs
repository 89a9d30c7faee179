// The bench's keyboard: what each key does in each state of the page.
import assert from "node:assert/strict";
import { test } from "node:test";
import { enterDoes, keyIs, withAlt } from "../../brunt_web/testing/static/testing/keyboard.js";

const still = { at: "elsewhere", typed: false, more: false, moreTimed: false, clock: false, question: false };
const enter = (how) => enterDoes({ ...still, ...how });

test("Enter goes from field to field and stores behind the last", () => {
  assert.equal(enter({ at: "size", typed: true, more: true }), "go to the next field");
  assert.equal(enter({ at: "field", more: true }), "go to the next field");
  assert.equal(enter({ at: "field", typed: true }), "store");
  assert.equal(enter({}), "store");
});

test("Enter twice on a size that is empty moves nothing", () => {
  assert.equal(enter({ at: "size", more: true }), "stay");
  assert.equal(enter({ at: "size" }), "store");
});

test("A further row is added only where something was typed", () => {
  assert.equal(enter({ at: "row", typed: true, more: true }), "add the row");
  assert.equal(enter({ at: "row", more: true }), "go to the next field");
  assert.equal(enter({ at: "row" }), "store");
});

test("Buttons, links and text areas keep their own Enter", () => {
  assert.equal(enter({ at: "control", more: true, question: true }), "leave to the browser");
});

test("A running figure is taken before anything else", () => {
  assert.equal(enter({ at: "figure", more: true, clock: true, question: true }), "take the reading");
});

test("Timed readings follow one another, then the clock, then the question", () => {
  assert.equal(enter({ at: "timed", more: true, moreTimed: true }), "go to the next field");
  assert.equal(enter({ at: "timed", moreTimed: true, clock: true }), "go to the next timed reading");
  assert.equal(enter({ at: "timed", clock: true, question: true }), "start the clock");
  assert.equal(enter({ at: "field", typed: true, question: true }), "go to the question");
});

test("In every state Enter does exactly one known thing", () => {
  const known = new Set(["store"]);
  for (const at of ["control", "figure", "row", "size", "timed", "field", "elsewhere"])
    for (let bits = 0; bits < 32; bits += 1) {
      const [typed, more, moreTimed, clock, question] = [1, 2, 4, 8, 16].map((bit) => Boolean(bits & bit));
      const does = enter({ at, typed, more, moreTimed, clock, question });
      known.add(does);
      if (does === "store") assert.ok(!clock && !question, `${at} ${bits}: a question or a clock is passed over`);
    }
  assert.equal(known.size, 9);
});

test("A key belongs to the browser, to typing, or to the bench", () => {
  const page = { dialog: false, text: false };
  const field = { dialog: false, text: true };
  assert.equal(keyIs({ key: "u" }, page), "single");
  assert.equal(keyIs({ key: "u" }, field), "typing");
  assert.equal(keyIs({ key: "Escape" }, field), "leave the field");
  assert.equal(keyIs({ key: "Enter" }, field), "Enter");
  assert.equal(keyIs({ key: "Tab" }, page), "Tab");
  assert.equal(keyIs({ key: "r", ctrlKey: true }, page), "the browser’s");
  assert.equal(keyIs({ key: "r", metaKey: true }, field), "the browser’s");
  assert.equal(keyIs({ key: "Enter" }, { dialog: true, text: true }), "the browser’s");
  assert.equal(keyIs({ key: "1", altKey: true }, field), "with Alt");
});

test("Alt and a key are the digit or letter printed on it, whatever sign Alt makes", () => {
  assert.deepEqual(withAlt({ key: "¹", code: "Digit1" }), { digit: "1" });
  assert.deepEqual(withAlt({ key: "7", code: "Numpad7" }), { digit: "7" });
  assert.deepEqual(withAlt({ key: "å", code: "KeyA" }), { letter: "a" });
  assert.deepEqual(withAlt({ key: "B", code: "KeyN" }), { letter: "b" });
  assert.deepEqual(withAlt({ key: "ArrowUp", code: "ArrowUp" }), {});
});
