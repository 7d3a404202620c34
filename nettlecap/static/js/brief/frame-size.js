// Another frame size takes the guide with it: what was drawn for the old frame is scaled to the new one, by the server.

export function scaleWithFrame(form, values, ask) {
  let size = sizeOf(values);
  ["canvas_width", "canvas_height"].forEach((name) => {
    form.elements.namedItem(name).addEventListener("change", () => {
      const next = sizeOf(values);
      if (size && next) ask.change({ from: size, to: next });
      size = next || size;
    });
  });
  // An undone change of size has its guide undone with it.
  values.addEventListener("restored", () => { size = sizeOf(values) || size; });
}

function sizeOf(values) {
  const [width, height] = [values.number("canvas_width"), values.number("canvas_height")];
  return width > 0 && height > 0 ? { width, height } : null;
}
