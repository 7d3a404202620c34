// Shapes in clip coordinates: x right, y down, angles counter-clockwise as seen. Knows no page; tested on its own.

/** An ellipse as the attributes of an SVG element. Pixel centres are whole numbers; SVG's grid starts half before. */
export function ellipseAttributes({ x, y, major, minor, angle }) {
  const cx = x + 0.5;
  const cy = y + 0.5;
  return {
    cx: round(cx),
    cy: round(cy),
    rx: round(major / 2),
    ry: round(minor / 2),
    transform: `rotate(${round(-angle)} ${round(cx)} ${round(cy)})`,
  };
}

export function pointsAttribute(points) {
  return points.map(([x, y]) => `${round(x + 0.5)},${round(y + 0.5)}`).join(" ");
}

/** A short line across a path at a point, from the points beside it: where a drawing falls. */
export function tickAcross(before, here, after, length) {
  const dx = after[0] - before[0];
  const dy = after[1] - before[1];
  const size = Math.hypot(dx, dy) || 1;
  const ox = (-dy / size) * (length / 2);
  const oy = (dx / size) * (length / 2);
  return [
    [here[0] - ox, here[1] - oy],
    [here[0] + ox, here[1] + oy],
  ];
}

export function round(value) {
  return Math.round(value * 100) / 100;
}
