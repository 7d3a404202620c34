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

/** The first frame of the finding after (or before) a frame among those given; they go round. */
export function stepFinding(findings, key, by) {
  if (findings.length === 0) return null;
  const at = findings.findIndex((f) => f.key === key);
  const wanted = at < 0 ? (by > 0 ? 0 : findings.length - 1) : (at + by + findings.length) % findings.length;
  return findings[wanted];
}
