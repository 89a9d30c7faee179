// Measuring by keyboard: Enter goes to the next field; leaving a row's last field stores the row.
import { post } from "../interface/js/post.js";

const table = document.querySelector(".measure");
const fields = [...table.querySelectorAll("input.plain-input")];

fields.find((field) => !field.value)?.focus();

table.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !event.target.matches("input")) return;
  event.preventDefault();
  const next = fields[fields.indexOf(event.target) + 1];
  if (next?.closest("tr") !== event.target.closest("tr")) store(event.target.closest("tr"));
  (next ?? event.target).focus();
  next?.select();
});

table.addEventListener("change", (event) => store(event.target.closest("tr")));

// One after another: what was typed last is what stands.
let turn = Promise.resolve();
const store = (row) => (turn = turn.then(() => storeNow(row)));

async function storeNow(row) {
  const inputs = [...row.querySelectorAll("input")];
  const text = inputs.map((input) => input.value).join("|");
  if (row.dataset.stored === text) return;
  row.dataset.stored = text;
  const body = new FormData();
  inputs.forEach((input) => {
    body.append(input.name, input.value);
    input.removeAttribute("aria-invalid");
  });
  if (row.dataset.seen) body.append("seen", row.dataset.seen);
  try {
    const answer = await post(table.dataset.address.replace("XX-XXX", row.dataset.row), body);
    show(row, await answer.json(), answer.ok);
  } catch {
    delete row.dataset.stored;
    say(row, "Not saved: the server cannot be reached. What you typed is still here; press Enter again.", true);
  }
}

function show(row, answer, ok) {
  if (answer.seen) row.dataset.seen = answer.seen;
  if (!ok) {
    delete row.dataset.stored;
    row.querySelector(`[name="${answer.field}"]`)?.setAttribute("aria-invalid", "true");
    say(row, answer.error, true);
    return;
  }
  for (const cell of row.querySelectorAll("[data-share]"))
    cell.textContent = answer.deviations[cell.dataset.share] ?? "";
  say(row, answer.flags.length ? answer.flags.join("; ") : "stored", answer.flags.length > 0);
}

function say(row, text, hot) {
  const place = row.querySelector("[data-says]");
  place.textContent = text;
  place.classList.toggle("hot", hot);
}
