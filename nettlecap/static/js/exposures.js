// Which drawing shows on which frame, and which stand beside it. Knows no page; tested on its own.

/** The exposure that shows on a frame, as its index in playing order. */
export function indexAt(exposures, frame) {
  let low = 0;
  let high = exposures.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (exposures[middle].first_frame <= frame) low = middle;
    else high = middle - 1;
  }
  return low;
}

export function drawingAt(exposures, frame) {
  return exposures[indexAt(exposures, frame)].drawing;
}

/** The first frame of the drawing so many drawings on from a frame's, held at both ends. */
export function stepDrawing(exposures, frame, by) {
  const wanted = Math.min(exposures.length - 1, Math.max(0, indexAt(exposures, frame) + by));
  return exposures[wanted].first_frame;
}

/** Up to so many drawings before and after a frame's, the nearest first. */
export function neighbours(exposures, frame, count) {
  const at = indexAt(exposures, frame);
  const before = exposures.slice(Math.max(0, at - count), at).reverse();
  const after = exposures.slice(at + 1, at + 1 + count);
  return { before: before.map((e) => e.drawing), after: after.map((e) => e.drawing) };
}

/** The first frame of the finding after (or before) a frame among those given; they go round. */
export function stepFinding(findings, key, by) {
  if (findings.length === 0) return null;
  const at = findings.findIndex((f) => f.key === key);
  const wanted = at < 0 ? (by > 0 ? 0 : findings.length - 1) : (at + by + findings.length) % findings.length;
  return findings[wanted];
}
