// The take mended, played beside the original by the same clock: the server cuts out and moves, this draws.

import { Drawings } from "./drawings.js";

// Beneath a figure drawn anew the student's drawing is this strong.
const PALE = 0.35;

export class Mended {
  constructor(player) {
    this.player = player;
    this.box = player.element.querySelector("[data-mended]");
    this.shown = null;
    if (!this.box) return;
    this.canvas = this.box.querySelector("canvas");
    this.context = this.canvas.getContext("2d");
    player.clock.addEventListener("frame", () => this.draw());
    player.element.addEventListener("view", () => this.draw());
    // What is decided changes what is mended.
    player.hear(document, "htmx:afterSettle", () => this.decided());
  }

  get on() {
    return Boolean(this.box) && !this.box.hidden;
  }

  async toggle() {
    if (!this.box) return;
    this.box.hidden = this.on;
    this.player.pressed("mended", this.on);
    this.player.fit();
    if (this.on) await this.fetch();
  }

  async decided() {
    this.shown = null;
    if (this.on) await this.fetch();
  }

  async fetch() {
    const words = this.box.querySelector("[data-mended-words]");
    words.textContent = "Mending …";
    const answer = await fetch(this.box.dataset.mended);
    if (!answer.ok) {
      words.textContent = answer.status < 500 ? await answer.text() : "It could not be mended. Try again.";
      return;
    }
    const told = await answer.json();
    const moved = told.shown.map((part) => part.moved).filter((index) => index !== null);
    const pictures = new Drawings(told.pictures, moved);
    await pictures.load(() => {});
    this.pictures = pictures;
    this.shown = told.shown.flatMap((part) => Array.from({ length: part.frames }, () => part));
    const anew = told.shown.some((part) => part.anew);
    words.textContent = moved.length === 0 && !anew && this.shown.length === this.player.clock.frames
      ? "Nothing to mend" : "Mended";
    this.draw();
  }

  draw() {
    if (!this.on || !this.shown) return;
    const { clock, data, drawings, picture } = this.player;
    const { width, height } = data.clip;
    this.canvas.width = width;
    this.canvas.height = height;
    this.player.view.apply(this.context);
    const part = this.shown[Math.min(clock.frame, this.shown.length) - 1];
    const own = drawings.get(part.drawing);
    this.context.globalAlpha = part.figure.length ? PALE : 1;
    if (part.moved !== null) this.context.drawImage(this.pictures.get(part.moved), 0, 0);
    else if (own) picture.layIn(this.context, own, part.drawing);
    this.context.globalAlpha = 1;
    part.figure.forEach((line) => this.stroke(line, part.anew, width / 960));
  }

  /** A line of the figure as it belongs, the far side's thinner and in dashes. */
  stroke({ points, kind }, anew, scale) {
    const { context } = this;
    const style = getComputedStyle(this.box);
    const far = kind.startsWith("far");
    context.strokeStyle = style.getPropertyValue(anew ? "--figure-anew" : "--figure");
    context.lineWidth = (far ? 2.2 : 3.2) * scale;
    context.setLineDash(far ? [7 * scale, 5 * scale] : []);
    context.lineCap = "round";
    context.beginPath();
    points.forEach(([x, y], i) => context[i ? "lineTo" : "moveTo"](x + 0.5, y + 0.5));
    context.stroke();
  }
}
