// The guide in the picture: the sheet as the server draws it, what moves as it plays over it, and the handles. What a
// drag does, the server says.

import { draggable } from "./drag.js";
import { make, show } from "./svg.js";

export class Stage {
  constructor(element, ask, clock) {
    this.element = element;
    this.ask = ask;
    this.sheet = element.querySelector("[data-sheet-picture]");
    this.over = element.querySelector("[data-over]");
    this.note = element.querySelector("[data-stage-note]");
    this.figure = make("g", { class: "mover" });
    this.grips = new Map();
    this.guide = null;
    this.clock = clock;
    clock.addEventListener("frame", () => this.paintFigure());
  }

  show(guide) {
    this.guide = guide;
    this.shown = null;
    this.element.classList.remove("stale");
    this.element.style.aspectRatio = `${guide.width} / ${guide.height}`;
    show(this.sheet, guide.sheet);
    // Whole numbers are the middles of pixels, as on the sheet below.
    this.over.setAttribute("viewBox", `-0.5 -0.5 ${guide.width} ${guide.height}`);
    this.paintHandles();
    this.paintFigure();
    this.say("");
  }

  /** The last guide that could be drawn stays, faintly. */
  stale(words) {
    this.element.classList.add("stale");
    this.say(words);
  }

  say(words) {
    this.note.textContent = words;
    this.note.hidden = !words;
  }

  paintFigure() {
    if (!this.guide) return;
    const { frame } = this.clock;
    const { figures } = this.guide;
    const now = figures.findLast((one) => one.frame <= frame) || figures[0];
    if (now === this.shown) return;
    this.shown = now;
    const drawn = new DOMParser().parseFromString(now.svg, "image/svg+xml").getElementById("figure");
    this.figure.replaceChildren(...[...drawn.childNodes].map((node) => document.importNode(node, true)));
  }

  /** Handles are kept and moved, so that one that is held, or has the focus, stays itself. */
  paintHandles() {
    const { handles } = this.guide;
    const wanted = new Set(handles.map((handle) => handle.name));
    [...this.grips.keys()].filter((name) => !wanted.has(name)).forEach((name) => {
      this.grips.get(name).element.remove();
      this.grips.delete(name);
    });
    handles.forEach((handle) => {
      if (!this.grips.has(handle.name)) this.grips.set(handle.name, this.newGrip(handle));
      const kept = this.grips.get(handle.name);
      kept.handle = kept.held ? { ...handle, at: kept.handle.at } : handle;
      this.place(kept);
    });
    this.over.append(this.figure);
    this.grips.forEach(({ handle, element }) => { if (handle.line) this.over.prepend(element); });
  }

  newGrip(handle) {
    const kept = { handle, held: false, element: make(handle.line ? "line" : "circle", { class: handle.line ? "handle-line" : "handle", tabindex: "0", role: "slider" }) };
    draggable(kept.element, {
      place: () => kept.handle.at,
      moved: (x, y) => {
        kept.held = true;
        kept.element.classList.add("dragged");
        // What is held follows the pointer at once; the guide follows when it has been worked out.
        const { at, ways } = kept.handle;
        kept.handle = { ...kept.handle, at: [ways.includes("x") ? x : at[0], ways.includes("y") ? y : at[1]] };
        this.place(kept);
        this.ask.change(this.told(kept), false);
      },
      ended: () => {
        kept.held = false;
        kept.element.classList.remove("dragged");
        this.ask.change(this.told(kept));
      },
    });
    this.over.append(kept.element);
    return kept;
  }

  told({ handle }) {
    return { name: handle.name, x: handle.at[0], y: handle.at[1] };
  }

  place({ handle, element }) {
    const [x, y] = handle.at;
    const size = Math.max(5, this.guide.width / 150);
    const geometry = handle.line ? { x1: 0, x2: this.guide.width, y1: y, y2: y } : { cx: x, cy: y, r: size };
    Object.entries({ ...geometry, "aria-label": handle.label, "aria-valuetext": handle.value })
      .forEach(([name, value]) => element.setAttribute(name, value));
    element.setAttribute("aria-valuenow", Math.round(handle.ways.includes("x") ? x : y));
  }
}
