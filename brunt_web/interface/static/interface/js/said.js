// A number as the workshop writes decimals, for what a script writes onto the page.
export const said = (text) =>
  "comma" in document.body.dataset ? String(text).replace(/(\d)\.(\d)/g, "$1,$2") : String(text);
