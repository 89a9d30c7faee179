// When an entry was made, whatever happens to this device's clock: by a clock that only runs forward while the page
// stands, checked against the server's when it is sent; where neither can tell, the person is asked.
const KEPT = "brunt-clock"; // the device's clock against the server's, as last seen: { wall, offset, page, mono }
const page = crypto.randomUUID();
const AGREE = 2000; // the two clocks of this page agree within, in ms
const SAME = 5000; // the server says its time by the second

const read = () => {
  try {
    return JSON.parse(localStorage.getItem(KEPT));
  } catch {
    return null;
  }
};

// What an answer of the server says of its clock.
function see(answer) {
  const told = Date.parse(answer.headers.get("Date") ?? "");
  if (!Number.isFinite(told)) return null;
  const seen = { wall: Date.now(), mono: performance.now(), offset: told - Date.now(), page };
  try {
    localStorage.setItem(KEPT, JSON.stringify(seen));
  } catch {
    /* then it is only known while the page stands */
  }
  return seen;
}

async function ask() {
  return see(await fetch("/health/", { cache: "no-store" }));
}

// What is written down of a moment: both clocks, and how far the device's was off, `sure` where nothing turned it since.
export function stamp() {
  const seen = read();
  const turned = seen?.page === page ? Math.abs(Date.now() - seen.wall - (performance.now() - seen.mono)) : Infinity;
  return { at: Date.now(), mono: performance.now(), page, offset: seen?.offset ?? null, sure: turned < AGREE };
}

// Now, by the server's clock.
export async function serverNow() {
  const seen = await ask();
  return Date.now() + (seen?.offset ?? 0);
}

// How many milliseconds ago a stamped moment was, or `{ guess }`, a time, where it is in doubt.
export async function since(then) {
  const wall = Date.now() - then.at;
  const steady = then.page === page ? performance.now() - then.mono : null;
  if (steady !== null && Math.abs(wall - steady) < AGREE) return { age: steady };
  const seen = await ask();
  if (!seen) return { guess: Date.now() - Math.max(steady ?? wall, 0) };
  // An entry of before this was written down is taken by a device's clock that is right.
  const offset = then.offset === undefined ? 0 : then.offset;
  const same = offset !== null && Math.abs(seen.offset - offset) < SAME;
  if (same && wall >= 0) return { age: wall };
  if (then.sure) return { age: Math.max(Date.now() + seen.offset - (then.at + then.offset), 0) };
  return { guess: Date.now() + seen.offset - Math.max(steady ?? wall, 0) };
}

// The server's time is looked at when a page opens, so that what is entered later can be placed.
ask().catch(() => {});
