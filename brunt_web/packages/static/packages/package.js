// Looks into a package before it is imported, and says what is going on while it takes its time.
import { answered } from "../jobs/follow.js";

const form = document.querySelector("[data-package]");
const found = form.querySelector("[data-found]");

const say = (text) => {
  found.replaceChildren(Object.assign(document.createElement("p"), { textContent: text }));
};

form.querySelector("[data-look]").addEventListener("click", async () => {
  if (!form.file.files.length) return say("Choose the package first.");
  say("Reading the package …");
  try {
    const sent = await fetch(form.dataset.package, { method: "POST", body: new FormData(form), redirect: "error" });
    const answer = await answered(sent, (told, words) => {
      if (!told.over) say(words);
    });
    if (!answer.ok && answer.status !== 422) throw new Error(String(answer.status));
    found.innerHTML = await answer.text();
  } catch {
    say("It could not be read now: the server did not answer, or you are signed out. The file is still chosen.");
  }
});

form.addEventListener("submit", () => {
  say("Bringing it in … a large package takes a minute or two.");
  for (const button of form.querySelectorAll("button")) button.setAttribute("aria-busy", "true");
});
