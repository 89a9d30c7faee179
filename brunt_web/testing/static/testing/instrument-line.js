// A line of an instrument: a quantity with its unit, or several parted by ";", a time among them.
// `known` says of each unit what it measures, `wanted` what the reading measures. The time is in seconds.
const SECONDS = { ms: 0.001, min: 60, h: 3600 };
const PIECE = /^([-+−]?[\d.,]+(?:[eE][-+]?\d+)?)\s*(\S.*)?$/;

export function readLine(line, known, wanted) {
  const read = { value: null, travel: null, at: null };
  for (const piece of line.split(";")) {
    const found = piece.trim().match(PIECE);
    const number = found ? Number(found[1].replace("−", "-").replace(",", ".")) : NaN;
    if (Number.isFinite(number)) putIn(read, number, (found[2] ?? "").trim(), known, wanted);
  }
  return read;
}

function putIn(read, number, unit, known, wanted) {
  const kind = known[unit];
  if (kind === wanted && read.value === null) read.value = { number, unit };
  else if (kind === "time") read.at = number * (SECONDS[unit] ?? 1);
  else if (kind === "length" || kind === "angle") read.travel = number;
}
