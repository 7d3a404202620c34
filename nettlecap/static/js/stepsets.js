// Which frames stepping visits: every frame, each drawing, breakdowns and keys, keys alone, or frames with findings.
// Knows no page; tested on its own.

export const SETS = ["frames", "drawings", "breakdowns", "keys", "findings"];

/** The frames of a set, ascending. A row is a frame with `frame`, `drawing`, `starts`, `mark` and `found`. */
export function framesOf(rows, set) {
  const visited = {
    frames: () => true,
    drawings: (row) => row.starts,
    breakdowns: (row) => row.starts && row.mark !== "plain",
    keys: (row) => row.starts && row.mark === "key",
    findings: (row) => row.found,
  }[set];
  return rows.filter(visited).map((row) => row.frame);
}

/** The frame so many steps on within a set, held at its ends; a frame outside the set steps to its neighbour in it. */
export function stepIn(frames, frame, by) {
  if (frames.length === 0) return frame;
  const passed = frames.filter((f) => (by > 0 ? f <= frame : f < frame)).length;
  const wanted = by > 0 ? passed - 1 + by : passed + by;
  return frames[Math.min(frames.length - 1, Math.max(0, wanted))];
}

/** Up to so many frames of a set before and after one, the nearest first. */
export function besideIn(frames, frame, before, after) {
  const earlier = frames.filter((f) => f < frame).reverse();
  const later = frames.filter((f) => f > frame);
  return { before: earlier.slice(0, before), after: later.slice(0, after) };
}
