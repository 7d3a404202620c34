// What to show for a finding, as the server told it: its layers, and the part of the frame. Knows no page.

// So much room is left around what is framed, in sizes of what moves.
const ROOM = 1.6;

export function layersFor(finding) {
  return Object.fromEntries(finding.layers.map((layer) => [layer, true]));
}

/** The box (px) around ellipses and points, with room beside it; null where there is nothing to frame. */
export function boxAround(ellipses, points, size) {
  const corners = [
    ...ellipses.flatMap(({ x, y, major }) => [[x - major / 2, y - major / 2], [x + major / 2, y + major / 2]]),
    ...points,
  ];
  if (corners.length === 0) return null;
  const room = ROOM * size;
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
    if (mark.kind === "path" || mark.kind === "hung") return mark.points;
    if (mark.kind === "point") return [[mark.x, mark.y]];
    if (mark.kind === "lines") return mark.lines.flat();
    return mark.kind === "gap" ? [[mark.x1, mark.y1], [mark.x2, mark.y2]] : [];
  });
  return { ellipses, points };
}
