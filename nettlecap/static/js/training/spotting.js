// Spot it: first watched at speed and tapped, then stepped through and named.

import { drawingAt } from "../exposures.js";

export class Spotting {
  constructor(form, player, reaction) {
    this.form = form;
    this.player = player;
    this.reaction = reaction;
    this.taps = [];
    this.naming = false;
    this.first = null;
    form.addEventListener("change", (event) => {
      const { of } = event.target.dataset;
      if (of) this.field("principle").value = of;
    });
    form.querySelectorAll("[data-principle]").forEach((part) => part.addEventListener("toggle", () => {
      if (part.open) this.field("principle").value = part.dataset.principle;
    }));
    this.box = player.element.querySelector("[data-frame-box]");
    this.box.addEventListener("pointerup", (event) => this.touched(event));
    this.paint();
  }

  field(name) {
    return this.form.querySelector(`[name=${name}]`);
  }

  /** Something is off: at the frame that showed when it was seen, not when the hand came down. */
  tap() {
    const { clock } = this.player;
    const late = clock.playing ? Math.round(this.reaction * clock.fps * clock.speed) : 0;
    const frame = clock.frame - late < 1 && clock.playing ? clock.frame - late + clock.frames : Math.max(1, clock.frame - late);
    this.taps.push(frame);
    this.first = this.first ?? performance.now();
    this.field("off").value = "1";
    this.field("taps").value = this.taps.join(",");
    this.naming = true;
    clock.stopAt(frame);
    this.paint();
  }

  /** A touch of the picture while it plays is a tap; while it is named, it is there. */
  touched(event) {
    if (this.naming && !this.player.clock.playing) this.point(this.player.view.place(event, this.box.getBoundingClientRect()));
    else if (!this.naming && this.player.clock.playing) this.tap();
  }

  clean() {
    this.first = this.first ?? performance.now();
    this.field("off").value = "0";
    this.form.requestSubmit();
  }

  /** Once more at speed, with what was named kept. */
  watch() {
    this.naming = false;
    this.mark(null);
    this.player.clock.play();
    this.paint();
  }

  /** It is on the frame that shows, perhaps at a place of it. */
  point(place = null) {
    if (!this.naming) return;
    const { clock, data } = this.player;
    this.field("frame").value = clock.frame;
    this.field("x").value = place ? place[0].toFixed(1) : "";
    this.field("y").value = place ? place[1].toFixed(1) : "";
    const told = `frame ${clock.frame}, drawing ${drawingAt(data.clip.exposures, clock.frame)}${place ? ", here" : ""}`;
    this.form.querySelector("[data-pointed]").textContent = told;
    this.mark(place);
  }

  /** A ring where it was pointed. */
  mark(place) {
    this.ring?.remove();
    if (!place) return;
    this.ring = document.createElementNS("http://www.w3.org/2000/svg", "circle");
    const at = { class: "o-pointed", cx: place[0] + 0.5, cy: place[1] + 0.5, r: this.player.data.clip.width / 40 };
    Object.entries(at).forEach(([name, value]) => this.ring.setAttribute(name, value));
    this.player.element.querySelector("[data-overlay]").append(this.ring);
  }

  /** Open a principle by its number; whether there is one. */
  open(number) {
    const part = this.naming ? this.form.querySelectorAll("[data-principle]")[number - 1] : null;
    if (!part) return false;
    this.form.querySelectorAll("[data-principle]").forEach((other) => { other.open = other === part; });
    part.querySelector("input")?.focus();
    return true;
  }

  paint() {
    this.form.closest("[data-drill]").dataset.phase = this.naming ? "naming" : "watching";
  }
}
