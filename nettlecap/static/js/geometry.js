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

/** SVG path data of the circle's arc from one point by a second to a third; straight where they lie in a line. */
export function arcThrough([ax, ay], [bx, by], [cx, cy]) {
  const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  const [ab, bc, ca] = [Math.hypot(bx - ax, by - ay), Math.hypot(cx - bx, cy - by), Math.hypot(ax - cx, ay - cy)];
  if (Math.abs(area) < 1e-3 * Math.max(ab, bc, ca) ** 2) return `M${ax} ${ay}L${bx} ${by}L${cx} ${cy}`;
  const radius = round((ab * bc * ca) / (2 * Math.abs(area)));
  const sweep = area > 0 ? 1 : 0;
  // The second point lies on the longer part where it sees the chord at less than a right angle.
  const large = ab * ab + bc * bc < ca * ca ? 0 : 1;
  return `M${ax} ${ay}A${radius} ${radius} 0 ${large} ${sweep} ${cx} ${cy}`;
}

/** Where an ellipse can be taken hold of: its middle, and one end of each axis. */
export function handlesOf({ x, y, major, minor, angle }) {
  const turn = (angle * Math.PI) / 180;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  return {
    middle: [x, y],
    along: [x + (major / 2) * cos, y - (major / 2) * sin],
    across: [x - (minor / 2) * sin, y - (minor / 2) * cos],
  };
}

/** The ellipse that follows when one of its handles is moved to a place. */
export function ellipseFrom(shape, handle, x, y) {
  if (handle === "middle") return { x, y };
  const [dx, dy] = [x - shape.x, y - shape.y];
  const reach = Math.max(4, 2 * Math.hypot(dx, dy));
  const angle = (Math.atan2(-dy, dx) * 180) / Math.PI;
  return handle === "along" ? { major: reach, angle } : { minor: reach, angle: angle - 90 };
}

/** An axis' angle between -90 and 90 degrees. */
export function turned(angle) {
  const folded = angle % 180;
  if (folded > 90) return folded - 180;
  return folded <= -90 ? folded + 180 : folded;
}

export function round(value) {
  return Math.round(value * 100) / 100;
}
