// Every text there is, in SVG too, and every hint in an empty field, with less contrast than WCAG 2.2, 1.4.3 asks for.
() => {
  const pen = document.createElement("canvas").getContext("2d", { willReadFrequently: true });
  const read = (colour) => {
    pen.clearRect(0, 0, 1, 1);
    pen.fillStyle = colour;
    pen.fillRect(0, 0, 1, 1);
    const [r, g, b, a] = pen.getImageData(0, 0, 1, 1).data;
    return { rgb: [r, g, b], a: a / 255 };
  };
  const channel = (v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4);
  const light = (rgb) => 0.2126 * channel(rgb[0]) + 0.7152 * channel(rgb[1]) + 0.0722 * channel(rgb[2]);
  const behind = (e) => {
    for (; e; e = e.parentElement) {
      const found = read(getComputedStyle(e).backgroundColor);
      if (found.a > 0.99) return found.rgb;
    }
    return [255, 255, 255];
  };
  const colourOf = (e, style) => {
    if (e.namespaceURI.endsWith("svg")) return ["text", "tspan"].includes(e.tagName) ? style.fill : null;
    if ([...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim())) return style.color;
    return e.placeholder && !e.value ? getComputedStyle(e, "::placeholder").color : null;
  };
  const wrong = [];
  for (const e of document.querySelectorAll("body *")) {
    if (!e.checkVisibility({ visibilityProperty: true, opacityProperty: true })) continue;
    if (e.closest(".visually-hidden, .skip, [disabled]")) continue;
    const style = getComputedStyle(e);
    const colour = colourOf(e, style);
    if (!colour) continue;
    const { rgb, a } = read(colour);
    if (a < 0.05) continue;
    const ground = behind(e);
    const [x, y] = [light(rgb.map((v, i) => v * a + ground[i] * (1 - a))), light(ground)].sort((p, q) => q - p);
    const size = parseFloat(style.fontSize);
    const large = size >= 24 || (size >= 18.66 && Number(style.fontWeight) >= 700);
    const ratio = (x + 0.05) / (y + 0.05);
    if (ratio < (large ? 3 : 4.5) - 0.01) wrong.push(`${ratio.toFixed(2)} ${(e.textContent || e.placeholder).trim().slice(0, 30)}`);
  }
  return wrong;
}
