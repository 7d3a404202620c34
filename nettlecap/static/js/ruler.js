// A ruler over the picture: drag from one point to another, read px, and how many times the size of what moves that is.

import { pointsAttribute } from "./geometry.js";

const SVG = "http://www.w3.org/2000/svg";

export class Ruler {
  constructor(player) {
    this.player = player;
    this.from = null;
    this.overlay = player.element.querySelector("[data-overlay]");
    this.told = player.element.querySelector("[data-ruler-told]");
    this.line = document.createElementNS(SVG, "polyline");
    this.line.setAttribute("class", "o-ruler");
    this.overlay.append(this.line);
    const frame = player.element.querySelector("[data-frame-box]");
    frame.addEventListener("pointerdown", (event) => this.start(event));
    frame.addEventListener("pointermove", (event) => this.stretch(event));
    player.hear(window, "pointerup", () => { this.from = null; });
    player.element.addEventListener("tool", () => this.taken());
  }

  get on() {
    return this.player.tool === "ruler";
  }

  toggle() {
    this.player.take("ruler");
  }

  taken() {
    this.player.pressed("ruler", this.on);
    if (this.on) return;
    this.line.removeAttribute("points");
    if (this.told) this.told.textContent = "";
  }

  start(event) {
    if (!this.on) return;
    event.preventDefault();
    this.from = this.place(event);
    this.stretch(event);
  }

  stretch(event) {
    if (!this.from) return;
    const to = this.place(event);
    this.line.setAttribute("points", pointsAttribute([this.from, to]));
    const length = Math.hypot(to[0] - this.from[0], to[1] - this.from[1]);
    const { size } = this.player.data;
    const times = size ? `, ${(length / size).toFixed(2)} D` : "";
    this.told.textContent = `${length.toFixed(1)} px${times}`;
  }

  place(event) {
    return this.player.view.place(event, this.overlay.getBoundingClientRect());
  }
}
