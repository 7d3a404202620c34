// The guide in the picture: the sheet as the server draws it, the ball that plays over it, and the handles.

import { draggable } from "./drag.js";
import { make, show } from "./svg.js";

const SMALLEST = 8;

export class Stage {
  constructor(element, values, clock) {
    this.element = element;
    this.values = values;
    this.sheet = element.querySelector("[data-sheet-picture]");
    this.over = element.querySelector("[data-over]");
    this.note = element.querySelector("[data-stage-note]");
    this.ball = make("ellipse", { class: "ball" });
    this.grips = new Map();
    this.guide = null;
    this.clock = clock;
    clock.addEventListener("frame", () => this.paintBall());
  }

  show(guide) {
    this.guide = guide;
    this.element.classList.remove("stale");
    this.element.style.aspectRatio = `${guide.width} / ${guide.height}`;
    show(this.sheet, guide.sheet);
    // Whole numbers are the middles of pixels, as on the sheet below.
    this.over.setAttribute("viewBox", `-0.5 -0.5 ${guide.width} ${guide.height}`);
    this.paintHandles();
    this.paintBall();
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

  paintBall() {
    if (!this.guide) return;
    const { frame } = this.clock;
    const pose = this.guide.poses.findLast((one) => one[0] <= frame) || this.guide.poses[0];
    const [, x, y, along, across, turn] = pose;
    Object.entries({ cx: x, cy: y, rx: along, ry: across, transform: `rotate(${turn} ${x} ${y})` })
      .forEach(([name, value]) => this.ball.setAttribute(name, value));
  }

  /** Handles are kept and moved, so that one that is held, or has the focus, stays itself. */
  paintHandles() {
    const wanted = this.wanted();
    [...this.grips.keys()].filter((name) => !wanted.has(name)).forEach((name) => {
      this.grips.get(name).element.remove();
      this.grips.delete(name);
    });
    wanted.forEach((grip, name) => {
      if (!this.grips.has(name)) this.grips.set(name, this.newGrip(grip));
      const kept = this.grips.get(name);
      kept.grip = grip;
      this.place(kept);
    });
    this.over.append(this.ball);
    const line = this.grips.get("ground");
    if (line) this.over.prepend(line.element);
  }

  newGrip(grip) {
    const kept = { grip, element: make(grip.line ? "line" : "circle", { class: grip.line ? "handle-line" : "handle", tabindex: "0", role: "slider" }) };
    draggable(kept.element, {
      place: () => kept.grip.at,
      moved: (x, y) => {
        kept.element.classList.add("dragged");
        const change = kept.grip.moved(x, y);
        // What is held follows the pointer at once; the guide follows when it has been worked out.
        const { at, ways } = kept.grip;
        kept.grip = { ...kept.grip, at: [ways.includes("x") ? x : at[0], ways.includes("y") ? y : at[1]] };
        this.place(kept);
        this.values.set(change);
      },
      ended: () => {
        kept.element.classList.remove("dragged");
        this.values.keep();
      },
    });
    this.over.append(kept.element);
    return kept;
  }

  place({ grip, element }) {
    const [x, y] = grip.at;
    const size = Math.max(5, this.guide.width / 150);
    const geometry = grip.line ? { x1: 0, x2: this.guide.width, y1: y, y2: y } : { cx: x, cy: y, r: size };
    Object.entries({ ...geometry, "aria-label": grip.label, "aria-valuetext": grip.value })
      .forEach(([name, value]) => element.setAttribute(name, value));
    element.setAttribute("aria-valuenow", Math.round(grip.line ? y : x));
  }

  /** What can be taken hold of now, by name. */
  wanted() {
    const { handles } = this.guide;
    const { ground, diameter, top, contacts, start_x: startX } = handles;
    const grips = new Map();
    grips.set("ground", {
      line: true, ways: "y", at: [0, ground], label: "Ground", value: `${round(ground)} px from the top`,
      moved: (x, y) => ({ ground: round(y) }),
    });
    grips.set("top", {
      ways: "xy", at: top, label: "First top", value: `${round(ground - diameter / 2 - top[1])} px high`,
      moved: (x, y) => ({ height: Math.max(1, round(ground - diameter / 2 - y)), ...this.shifted(x - top[0], startX) }),
    });
    grips.set("size", {
      ways: "x", at: [top[0] + diameter / 2, top[1]], label: "Size of the ball", value: `${round(diameter)} px across`,
      moved: (x) => ({ diameter: Math.max(SMALLEST, round(2 * Math.abs(x - top[0]))) }),
    });
    if (handles.spreads) contacts.forEach((contact, i) => grips.set(`contact-${i}`, this.contact(contact, i, ground, startX)));
    return grips;
  }

  shifted(by, startX) {
    return Math.abs(by) < 0.5 ? {} : { start_x: round(startX + by) };
  }

  contact({ x, share }, i, ground, startX) {
    return {
      ways: "x", at: [x, ground], label: `Contact ${i + 1}`, value: `${round(x)} px from the left`,
      moved: (to) => ({ start_x: round(startX), distance: round((to - startX) / share) }),
    };
  }
}

function round(value) {
  return Math.round(value * 10) / 10;
}
