// Which layers and which chart show a finding best, by its principle or by its own code. Knows no page.

const LAYERS = {
  spacing: ["path", "neighbours", "ideal", "findings"],
  arcs: ["path", "arcs", "ideal", "findings"],
  squash_stretch: ["shape", "neighbours", "findings"],
  contact: ["ground", "shape", "neighbours", "findings"],
  timing: ["path", "neighbours", "findings"],
};
const CHARTS = { spacing: "gap", arcs: "height", squash_stretch: "stretch", contact: "height", timing: "gap" };
const OWN_CHARTS = { "volume.changes": "volume", "stretch.across": "lean", "timing.hop": "height" };
// So much room is left around what is framed, in widths of the ball.
const ROOM = 1.6;

export function layersFor(finding) {
  return Object.fromEntries((LAYERS[finding.principle] || []).map((layer) => [layer, true]));
}

export function chartFor(finding) {
  return OWN_CHARTS[finding.code] || CHARTS[finding.principle];
}

/** The box (px) around ellipses and points, with room beside it; null where there is nothing to frame. */
export function boxAround(ellipses, points, diameter) {
  const corners = [
    ...ellipses.flatMap(({ x, y, major }) => [[x - major / 2, y - major / 2], [x + major / 2, y + major / 2]]),
    ...points,
  ];
  if (corners.length === 0) return null;
  const room = ROOM * diameter;
  const xs = corners.map(([x]) => x);
  const ys = corners.map(([, y]) => y);
  return {
    left: Math.min(...xs) - room,
    right: Math.max(...xs) + room,
    top: Math.min(...ys) - room,
    bottom: Math.max(...ys) + room,
  };
}

/** Every point of a finding's marks, and the ellipses among them. */
export function partsOf(finding) {
  const ellipses = finding.overlay.filter((mark) => mark.kind === "place");
  const points = finding.overlay.flatMap((mark) => {
    if (mark.kind === "path") return mark.points;
    return mark.kind === "gap" ? [[mark.x1, mark.y1], [mark.x2, mark.y2]] : [];
  });
  return { ellipses, points };
}
