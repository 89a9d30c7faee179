// Import: an answer or another meaning of a column shows at once what it becomes; storing takes its time and says so.
const form = document.querySelector("[data-import-data]");
const place = "brunt-import-data-place";

form.addEventListener("change", (event) => {
  if (event.target.matches("[data-again]")) form.requestSubmit();
  if (event.target.matches("#file") && event.target.files.length) form.requestSubmit();
  if (event.target.matches("[data-good-only]")) settle();
});
form.addEventListener("submit", (event) => {
  sessionStorage.setItem(place, String(scrollY));
  const button = event.submitter ?? form.querySelector("button.main");
  button.setAttribute("aria-busy", "true");
  button.textContent = button.matches("[data-store]") ? "Storing …" : "Reading …";
});

// Refused rows hold the rest back until the tester says otherwise.
function settle() {
  const only = form.querySelector("[data-good-only]");
  const store = form.querySelector("[data-store]");
  if (only && store && !store.dataset.shut) store.disabled = !only.checked;
}

const store = form.querySelector("[data-store]");
if (store?.disabled) store.dataset.shut = "1";
settle();
if (form.querySelector("[data-store]")) scrollTo(0, Number(sessionStorage.getItem(place) || 0));
sessionStorage.removeItem(place);
