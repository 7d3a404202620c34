// What each key does. In a field only Escape and Ctrl Enter are taken.

export function listen(player, acts) {
  player.hear(document, "keydown", (event) => {
    const act = actFor(event);
    if (!act || !acts[act.name]) return;
    event.preventDefault();
    acts[act.name](...(act.with || []));
  });
}

/** The act of a key press, by name; null where the page should have it. */
export function actFor(event) {
  if (event.ctrlKey && event.key === "Enter") return { name: "return" };
  if (event.key === "Escape") return { name: "leave" };
  if (event.ctrlKey || event.metaKey || event.altKey || isField(event.target)) return null;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (key >= "1" && key <= "5") return { name: "points", with: [Number(key)] };
  if (event.shiftKey && key === "ArrowDown") return { name: "extend", with: [1] };
  if (event.shiftKey && key === "ArrowUp") return { name: "extend", with: [-1] };
  if (key === "j") return { name: event.shiftKey ? "another-way" : "beside" };
  if (key === "f") return { name: "finding", with: [event.shiftKey ? -1 : 1] };
  if ((key === " " || key === "Enter") && isButton(event.target)) return null;
  return KEYS[key] ? { name: KEYS[key] } : null;
}

const KEYS = {
  " ": "play",
  ArrowDown: "on",
  ArrowUp: "back",
  ArrowRight: "on-drawing",
  ArrowLeft: "back-drawing",
  Home: "first",
  End: "last",
  c: "loop",
  q: "quarter",
  o: "overlays",
  y: "agree",
  n: "dismiss",
  b: "place",
  h: "judged",
  e: "retime",
  x: "ruler",
  z: "close-up",
  d: "mended",
  s: "step-set",
  "-": "fewer",
  "+": "more",
  "=": "more",
  t: "flip",
  p: "pin",
  k: "call",
  m: "measure",
  0: "fold",
  l: "ticks",
  a: "tap",
  u: "take-back",
  v: "draw",
  Enter: "look-done",
  w: "write",
  i: "quote",
  r: "remark",
  g: "next",
  "?": "help",
};

function isField(target) {
  const kind = target?.tagName;
  const typed = kind === "INPUT" && !["checkbox", "button", "submit"].includes(target.type);
  return typed || kind === "TEXTAREA" || kind === "SELECT";
}

function isButton(target) {
  return ["BUTTON", "SUMMARY", "A"].includes(target?.tagName) || target?.type === "checkbox";
}
