// A line of an instrument, read. Run by `node --test tests/scripts` and by the test command.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readLine } from "../../brunt_web/testing/static/testing/instrument-line.js";

const KNOWN = { N: "force", kgf: "force", mm: "length", "°": "angle", s: "time", ms: "time", min: "time" };
const read = (line) => readLine(line, KNOWN, "force");

test("a quantity with its unit, alone or with time and travel", () => {
  for (const [line, value, at, travel] of [
    ["58.4 kgf", { number: 58.4, unit: "kgf" }, null, null],
    ["58,4kgf", { number: 58.4, unit: "kgf" }, null, null],
    ["−3.5e1 N", { number: -35, unit: "N" }, null, null],
    ["250 ms; 12 N; 1.5 mm", { number: 12, unit: "N" }, 0.25, 1.5],
    ["2 min;12 N;30 °", { number: 12, unit: "N" }, 120, 30],
    ["12 N; 13 N", { number: 12, unit: "N" }, null, null],
  ])
    assert.deepEqual(read(line), { value, at, travel }, line);
});

test("what is none is not guessed", () => {
  for (const line of ["", "hello", "12", "12 lbf", "1.2.3 N", "N 12", "; ;"])
    assert.equal(read(line).value, null, line);
});
