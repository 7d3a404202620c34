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
    player.element.querySelector("[data-frame-box]").addEventListener("pointerup", () => this.touched());
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

  /** A touch of the picture while it plays is a tap. */
  touched() {
    if (!this.naming && this.player.clock.playing) this.tap();
  }

  clean() {
    this.first = this.first ?? performance.now();
    this.field("off").value = "0";
    this.form.requestSubmit();
  }

  /** Once more at speed, with what was named kept. */
  watch() {
    this.naming = false;
    this.player.clock.play();
    this.paint();
  }

  /** It is on the frame that shows. */
  point() {
    if (!this.naming) return;
    const { clock, data } = this.player;
    this.field("frame").value = clock.frame;
    const told = `frame ${clock.frame}, drawing ${drawingAt(data.clip.exposures, clock.frame)}`;
    this.form.querySelector("[data-pointed]").textContent = told;
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
