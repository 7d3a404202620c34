// Another frame size takes the guide with it: what was drawn for the old frame is scaled to the new one.

const SCALED = ["diameter", "height", "distance", "start_x"];

export function scaleWithFrame(form, values) {
  let size = sizeOf(values);
  ["canvas_width", "canvas_height"].forEach((name) => {
    form.elements[name].addEventListener("change", () => {
      const next = sizeOf(values);
      if (size && next) scale(values, size, next);
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

function scale(values, old, next) {
  const by = fit(next) / fit(old);
  const scaled = SCALED.filter((name) => values.get(name) !== "").map((name) => [name, round(values.number(name) * by)]);
  values.set({ ...Object.fromEntries(scaled), ground: round(values.number("ground") * (next.height / old.height)) });
}

// What fits is bound by the narrower side, so that a width and then a height that go together scale only once.
function fit({ width, height }) {
  return Math.min(width / 16, height / 9);
}

function round(value) {
  return Math.round(value * 10) / 10;
}
