// What an entry that waits holds, in words: the readings as they were typed.
const quiet = new Set([
  "asks_ticks",
  "ticked",
  "key",
  "kept",
  "changed",
  "outcome",
  "place",
  "mode",
  "reason",
  "note",
  "correct",
  "due",
  "load_step",
  "input",
  "typed_for",
  "pasted",
  "rig",
  "seen",
  "in_workshop",
  "specimen",
]);

export const typedAs = (entry) =>
  entry.fields
    .filter(([name, value]) => value && !quiet.has(name))
    .map(([, value]) => value)
    .join(", ") || "nothing";
