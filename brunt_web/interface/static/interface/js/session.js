// A sign-in that ran out is told where somebody works, with the way back in at that place: what a script
// sends waits for it and is then sent again, so that nothing typed is lost.
import { token } from "./post.js";

function user() {
  return document.getElementById("outbox")?.dataset.user;
}
// Letters that act alone can be switched off (WCAG 2.1.4): then none reaches a page outside a field.
if (document.body.hasAttribute("data-keys-off")) {
  window.addEventListener(
    "keydown",
    (event) => {
      const typing = event.target.closest?.(
        "input:not([type=radio], [type=checkbox]), textarea, select, [contenteditable]",
      );
      const pressing = event.key === " " && event.target.closest?.("button, a, summary, input");
      if (event.key.length === 1 && !typing && !pressing && !event.ctrlKey && !event.metaKey && !event.altKey)
        event.stopImmediatePropagation();
    },
    true,
  );
}

// Every request of a script says which workshop its page belongs to, whichever was switched to since.
const { workshop, called } = document.body.dataset;
const bare = window.fetch.bind(window);
const plain = (address, how = {}) => {
  const here = new URL(address, location.href).origin === location.origin;
  return bare(address, here && workshop ? { ...how, headers: { "X-Workshop": workshop, ...how.headers } } : how);
};
document.addEventListener("htmx:configRequest", (event) => {
  if (workshop) event.detail.headers["X-Workshop"] = workshop;
});

// Another tab went to another workshop: this page says where it belongs.
const PRESENT = "brunt-workshop";
function tellWhere() {
  let now;
  try {
    now = JSON.parse(localStorage.getItem(PRESENT));
  } catch {
    return;
  }
  document.getElementById("elsewhere")?.remove();
  if (!workshop || !now || now.workshop === workshop || now.user !== user()) return;
  const line = document.createElement("p");
  line.id = "elsewhere";
  line.className = "message error";
  line.setAttribute("role", "alert");
  line.textContent = `This page belongs to the workshop “${called}”; you switched to “${now.called}” in another tab. What you save here is saved in “${called}”. `;
  const form = document.createElement("form");
  form.method = "post";
  form.action = document.body.dataset.switch;
  const fields = {
    csrfmiddlewaretoken: token(),
    next: location.pathname + location.search,
  };
  for (const [name, value] of Object.entries(fields))
    form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
  form.append(
    Object.assign(document.createElement("button"), { className: "btn", textContent: `Switch back to ${called}` }),
  );
  form.addEventListener("submit", () => {
    form.querySelector("[name=next]").value = location.pathname + location.search;
  });
  line.append(form);
  document.getElementById("main").prepend(line);
}
if (workshop) {
  try {
    localStorage.setItem(PRESENT, JSON.stringify({ workshop, called, user: user() }));
  } catch {
    /* then no tab can tell the others */
  }
  window.addEventListener("storage", (event) => {
    if (event.key === PRESENT) tellWhere();
  });
  window.addEventListener("pageshow", (event) => {
    if (event.persisted) tellWhere();
  });
}

// The page for when the server is away is kept where the browser allows it: over https, or on the machine itself.
if (workshop && navigator.serviceWorker) navigator.serviceWorker.register("/offline-worker.js").catch(() => {});

let asking = null;
let waved = false;

window.fetch = async (address, how = {}) => {
  const answer = await plain(address, how);
  if (answer.status !== 401 || !answer.headers.get("X-Signed-Out")) return answer;
  const back = await signIn(how.headers?.["X-Part"] === "outbox");
  if (!back) return answer;
  return plain(address, {
    ...how,
    headers: { ...how.headers, ...(how.headers?.["X-CSRFToken"] ? { "X-CSRFToken": back } : {}) },
  });
};

document.addEventListener("htmx:responseError", async (event) => {
  const { xhr, elt } = event.detail;
  if (xhr.status === 401 && (await signIn())) window.htmx?.trigger(elt, "change");
});

// The new token where it worked; nothing where it was waved away. What is sent in the background asks once.
function signIn(behind = false) {
  if (behind && waved) return Promise.resolve("");
  asking ??= ask().finally(() => {
    asking = null;
  });
  return asking;
}

async function ask() {
  bar("");
  const dialog = document.createElement("dialog");
  dialog.className = "sheet sign-in-here";
  dialog.setAttribute("aria-label", "Sign in again");
  dialog.innerHTML =
    "<h2>You were signed out</h2><p>What you typed is still here. Sign in, and it goes on from where it stood.</p><div></div><p class='error-text' role='alert'></p><button type='button' class='btn quiet'>Not now</button>";
  document.body.append(dialog);
  const [place, problem, away] = [
    dialog.querySelector("div"),
    dialog.querySelector("[role=alert]"),
    dialog.querySelector("button"),
  ];
  place.innerHTML = await (await plain("/sign-in/", { headers: { "X-Part": "sign-in" } })).text();
  dialog.showModal();
  return new Promise((done) => {
    const end = (token) => {
      dialog.remove();
      waved = !token;
      if (!token) bar("You are signed out. What you enter is kept in this browser and sent when you sign in.");
      done(token);
    };
    away.addEventListener("click", () => end(""));
    dialog.addEventListener("cancel", () => end(""));
    place.addEventListener("submit", async (event) => {
      event.preventDefault();
      try {
        const form = event.target;
        const answer = await plain(form.getAttribute("action"), {
          method: "POST",
          body: new URLSearchParams(/** @type {any} */ (new FormData(form))),
          headers: { "X-Part": "sign-in" },
        });
        if (answer.status === 202 || (place.querySelector("[name=passkey]") && answer.status === 422)) {
          place.innerHTML = await answer.text();
          import("../../people/passkey.js");
          return;
        }
        if (answer.status !== 204) {
          problem.textContent =
            answer.status === 422
              ? "The name and password do not match an account."
              : "The door is closed for a while after too many tries.";
          return;
        }
        if (answer.headers.get("X-User") !== user()) {
          location.assign("/");
          return;
        }
        const token = answer.headers.get("X-Token");
        for (const field of document.querySelectorAll("[name=csrfmiddlewaretoken]")) field.value = token;
        end(token);
      } catch {
        problem.textContent = "The server cannot be reached.";
      }
    });
  });
}

function bar(text) {
  document.getElementById("signed-out")?.remove();
  if (!text) return;
  const line = document.createElement("p");
  line.id = "signed-out";
  line.className = "message error";
  line.setAttribute("role", "alert");
  line.textContent = `${text} `;
  const button = document.createElement("button");
  button.type = "button";
  button.className = "btn";
  button.textContent = "Sign in here";
  button.addEventListener("click", () => signIn());
  line.append(button);
  document.getElementById("main").prepend(line);
}
