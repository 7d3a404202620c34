// Clips shown in class, one after another: each plays twice, then the next. A person can stop, go on, or go to the frame.

import { Clock } from "./clock.js";
import { Drawings } from "./drawings.js";
import { drawingAt } from "./exposures.js";

const ROUNDS = 2;

class Show {
  constructor(element) {
    this.element = element;
    this.clips = JSON.parse(document.getElementById("show-clips").textContent);
    this.canvas = element.querySelector("canvas");
    this.context = this.canvas.getContext("2d");
    this.where = element.querySelector("[data-show-where]");
    this.pictures = new Map();
    const acts = { play: () => this.clock.toggle(), on: () => this.go(1), back: () => this.go(-1), there: () => this.there() };
    element.addEventListener("click", (event) => acts[event.target.closest("[data-show-act]")?.dataset.showAct]?.());
    document.addEventListener("keydown", (event) => {
      const act = { " ": "play", ArrowRight: "on", ArrowLeft: "back", f: "there" }[event.key];
      if (!act || (event.key === " " && event.target.closest("button, a"))) return;
      event.preventDefault();
      acts[act]();
    });
    this.open(0, !matchMedia("(prefers-reduced-motion: reduce)").matches);
  }

  async open(index, playing) {
    this.index = index;
    this.clock?.pause();
    const { clip, drawings } = this.clips[index];
    const clock = new Clock({ frames: clip.frames, fps: clip.fps });
    this.clock = clock;
    this.rounds = 0;
    this.last = 1;
    clock.addEventListener("frame", () => this.shown());
    clock.addEventListener("state", () => this.paint());
    this.canvas.width = clip.width;
    this.canvas.height = clip.height;
    if (!this.pictures.has(index)) {
      const numbers = [...new Set(clip.exposures.map((e) => e.drawing))];
      this.pictures.set(index, new Drawings(drawings, numbers));
      await this.pictures.get(index).load(() => { if (this.clock === clock) this.draw(); });
    }
    if (this.clock !== clock) return;
    this.element.dataset.ready = String(index + 1);
    this.draw();
    if (playing) clock.play();
  }

  shown() {
    const { clock } = this;
    if (clock.playing && clock.frame < this.last) this.rounds += 1;
    this.last = clock.frame;
    if (this.rounds >= ROUNDS && this.clips.length > 1) this.go(1);
    else this.draw();
  }

  go(by) {
    const playing = this.clock.playing;
    this.open((this.index + by + this.clips.length) % this.clips.length, playing);
  }

  /** Stop at the frame on which the fault is. */
  there() {
    this.clock.stopAt(this.clips[this.index].frame);
    this.draw();
  }

  draw() {
    const { clip } = this.clips[this.index];
    const picture = this.pictures.get(this.index).get(drawingAt(clip.exposures, this.clock.frame));
    this.context.clearRect(0, 0, clip.width, clip.height);
    if (picture) this.context.drawImage(picture, 0, 0);
    this.paint();
  }

  paint() {
    const { name, frame } = this.clips[this.index];
    const told = [`Clip ${this.index + 1} of ${this.clips.length}`, name, `frame ${this.clock.frame}${this.clock.frame === frame ? ", here" : ""}`];
    this.where.textContent = told.filter(Boolean).join(" · ");
    const button = this.element.querySelector('[data-show-act="play"]');
    button.textContent = this.clock.playing ? "Stop" : "Play";
    button.setAttribute("aria-pressed", String(this.clock.playing));
  }
}

new Show(document.querySelector("[data-show]"));
