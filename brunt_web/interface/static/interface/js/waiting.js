// On the pages without a sign-in: how many entries wait in this browser.
try {
  localStorage.removeItem("brunt-queue");
} catch {
  /* nothing was kept */
}
const place = document.querySelector("[data-entries-wait]");
let entries = [];
try {
  entries = JSON.parse(localStorage.getItem("brunt-outbox")) ?? [];
} catch {
  /* none known */
}
if (place && entries.length) {
  const one = entries.length === 1;
  place.hidden = false;
  place.textContent = `${entries.length} ${one ? "entry waits" : "entries wait"} for you in this browser: sign in and ${one ? "it is" : "they are"} sent.`;
}
