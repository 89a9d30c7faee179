// Passkeys: a key that this device keeps, made on the account's page and used when signing in.
const bytes = (text) => Uint8Array.from(atob(text.replace(/-/g, "+").replace(/_/g, "/")), (c) => c.charCodeAt(0));
const text = (buffer) =>
  btoa(String.fromCharCode(...new Uint8Array(buffer)))
    .replace(/\+/g, "-")
    .replace(/\//g, "_")
    .replace(/=+$/, "");

// What the browser gives back, as the server reads it.
function told(made) {
  const { response } = made;
  const parts = Object.fromEntries(
    ["clientDataJSON", "attestationObject", "authenticatorData", "signature", "userHandle"]
      .filter((name) => response[name])
      .map((name) => [name, text(response[name])]),
  );
  return JSON.stringify({
    id: made.id,
    rawId: text(made.rawId),
    type: made.type,
    response: parts,
    clientExtensionResults: {},
  });
}

const named = (list) => (list ?? []).map((one) => ({ ...one, id: bytes(one.id) }));

async function make(button) {
  const says = document.querySelector("[data-passkey-says]");
  try {
    const asked = await (await fetch(button.dataset.makePasskey)).json();
    if (asked.error) {
      says.textContent = asked.error;
      return;
    }
    const publicKey = {
      ...asked,
      challenge: bytes(asked.challenge),
      user: { ...asked.user, id: bytes(asked.user.id) },
      excludeCredentials: named(asked.excludeCredentials),
    };
    const made = await navigator.credentials.create({ publicKey });
    const form = button.closest("form");
    const body = new URLSearchParams(/** @type {any} */ (new FormData(form)));
    body.set("answer", told(made));
    const answer = await fetch(button.dataset.makePasskey, { method: "POST", body });
    if (answer.ok) location.reload();
    else says.textContent = (await answer.json()).error;
  } catch (problem) {
    says.textContent = `No passkey was made: ${problem.message}`;
  }
}

async function use(button) {
  const form = button.closest("form");
  try {
    const asked = JSON.parse(button.dataset.usePasskey);
    const publicKey = { ...asked, challenge: bytes(asked.challenge), allowCredentials: named(asked.allowCredentials) };
    form.elements.passkey.value = told(await navigator.credentials.get({ publicKey }));
    form.requestSubmit();
  } catch (problem) {
    form.querySelector("[data-passkey-says]").textContent = `The passkey was not used: ${problem.message}`;
  }
}

document.addEventListener("click", (event) => {
  const making = event.target.closest("[data-make-passkey]");
  const using = event.target.closest("[data-use-passkey]");
  if (making) make(making);
  if (using) use(using);
});
