// The next specimen, fetched while this one is being tested, so that Enter need not wait for the server.
import { post } from "../interface/js/post.js";

let next = null;
let fetching = null;

// Ask for what comes after this specimen, once the one before is stored: else the server, for which it
// still waits, would bring that one again. The server keeps what it brings for us.
export function fetchAfter(form, stored = Promise.resolve()) {
  next = null;
  if (form.hasAttribute("data-alone")) return;
  const code = form.dataset.code;
  const asked = (async () => {
    try {
      await stored;
      if (fetching !== asked) return;
      const answer = await post(`${form.dataset.base}bench/ahead/`);
      if (answer.status === 200 && fetching === asked)
        next = { after: code, html: await answer.text(), address: answer.headers.get("X-Address") };
    } catch {
      /* without the server the bench goes on by the queue on the screen */
    }
  })();
  fetching = asked;
}

// What was fetched for this specimen, once.
export function take(code) {
  const found = next?.after === code ? next : null;
  next = null;
  return found;
}

export const has = (code) => next?.after === code;
