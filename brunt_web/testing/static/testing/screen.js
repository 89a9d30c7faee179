// The bench on the screen: its root, its form, and where in the queue it stands.
export const root = document.getElementById("bench");

export const form = () => root.querySelector("[data-entry]");

export function moveTo(address) {
  const code = address.split("/")[2];
  history.pushState({}, "", address);
  document.title = `${code} at the bench · Brunt`;
  for (const link of root.querySelectorAll(".queue a[data-code]")) {
    if (link.dataset.code === code) link.setAttribute("aria-current", "true");
    else link.removeAttribute("aria-current");
  }
}
