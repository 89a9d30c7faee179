// A view as one drawing of its own: every line of text and every SVG of the region, where it lies on the page.
const NS = "http://www.w3.org/2000/svg";
const STYLES = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "font-stretch",
  "text-anchor",
];
const LEFT_OUT = "nav, button, form, .key, .btn, .save, script, style, .visually-hidden";

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-save]");
  if (button) save(button.dataset.save, button.closest("[data-drawing]") ?? document.querySelector("[data-drawing]"));
});

async function save(kind, region) {
  const title = region.dataset.name ?? document.title.split(" · ")[0];
  const name = title
    .trim()
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, "-");
  const drawing = compose(region);
  const text = new XMLSerializer().serializeToString(drawing);
  const file = new Blob([`<?xml version="1.0" encoding="UTF-8"?>\n${text}`], { type: "image/svg+xml" });
  give(kind === "png" ? await painted(text, drawing) : file, `${name}.${kind}`);
}

function give(blob, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

async function painted(text, drawing) {
  const picture = new Image();
  picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await picture.decode();
  const canvas = document.createElement("canvas");
  const [wide, high] = ["width", "height"].map((side) => Number(drawing.getAttribute(side)));
  canvas.width = wide * 2;
  canvas.height = high * 2;
  const pen = canvas.getContext("2d");
  pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return new Promise((done) => canvas.toBlob(done, "image/png"));
}

export function compose(root) {
  const box = root.getBoundingClientRect();
  const wide = Math.ceil(root.scrollWidth),
    high = Math.ceil(root.scrollHeight);
  const drawing = element("svg", { xmlns: NS, width: wide, height: high, viewBox: `0 0 ${wide} ${high}` });
  drawing.append(element("rect", { width: wide, height: high, fill: "#ffffff" }));
  const at = (rect) => ({
    x: round(rect.left - box.left + root.scrollLeft),
    y: round(rect.top - box.top + root.scrollTop),
  });
  for (const cell of root.querySelectorAll("tr > *")) {
    const colour = getComputedStyle(cell).backgroundColor;
    if (hidden(cell) || colour === "rgba(0, 0, 0, 0)") continue;
    const rect = cell.getBoundingClientRect();
    drawing.append(
      element("rect", { ...at(rect), width: round(rect.width), height: round(rect.height), fill: colour }),
    );
  }
  for (const svg of root.querySelectorAll("svg")) {
    const rect = svg.getBoundingClientRect();
    if (hidden(svg) || svg.parentElement.closest(`svg, ${LEFT_OUT}`) || !rect.width) continue;
    const copy = styled(svg);
    for (const [key, value] of Object.entries({
      ...at(rect),
      width: round(rect.width),
      height: round(rect.height),
      overflow: "visible",
    }))
      copy.setAttribute(key, value);
    drawing.append(copy);
  }
  const walker = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) write(walker.currentNode, drawing, at);
  return drawing;
}

// The lines a text node is broken into, each where it stands.
function write(node, drawing, at) {
  const parent = node.parentElement;
  if (!node.data.trim() || parent.closest(`svg, ${LEFT_OUT}`) || hidden(parent)) return;
  const style = getComputedStyle(parent);
  const range = document.createRange();
  let line = "",
    top = null,
    first = null;
  const put = () => {
    if (!line.trim() || !first) return;
    const place = at(first);
    const text = element("text", {
      x: place.x,
      y: round(place.y + first.height * 0.78),
      fill: style.color,
      "font-family": style.fontFamily,
      "font-size": style.fontSize,
      "font-weight": style.fontWeight,
      "font-stretch": style.fontStretch,
    });
    text.textContent = line.trim();
    drawing.append(text);
  };
  for (let i = 0; i < node.data.length; i += 1) {
    range.setStart(node, i);
    range.setEnd(node, i + 1);
    const rect = range.getClientRects()[0];
    if (!rect || !rect.width) continue;
    if (top === null || Math.abs(rect.top - top) > rect.height / 2) {
      put();
      [line, top, first] = ["", rect.top, rect];
    }
    line += node.data[i];
  }
  put();
}

// A copy that looks the same without the page's style sheet.
function styled(svg) {
  const copy = svg.cloneNode(true);
  const [own, theirs] = [svg, copy].map((root) => [root, ...root.querySelectorAll("*")]);
  own.forEach((node, i) => {
    const style = getComputedStyle(node);
    for (const key of STYLES) {
      const value = style.getPropertyValue(key);
      if (value) theirs[i].setAttribute(key, value);
    }
    for (const name of ["class", "href", "role", "aria-label", "tabindex"]) theirs[i].removeAttribute(name);
  });
  return copy;
}

function hidden(node) {
  return !node.checkVisibility?.({ visibilityProperty: true });
}

function element(name, attributes) {
  const made = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) if (key !== "xmlns") made.setAttribute(key, value);
  return made;
}

const round = (value) => Math.round(value * 10) / 10;
