// A second clip beside the first, in step with it; of another length it goes round by itself.

import { Clock, keepStep } from "../clock.js";
import { drawingAt } from "../exposures.js";
import { Packed } from "../packed.js";

export class Beside {
  constructor(element, player, kept) {
    this.player = player;
    this.data = JSON.parse(document.getElementById("beside-data").textContent);
    const { clip } = this.data;
    this.canvas = element.querySelector("canvas");
    this.canvas.width = clip.width;
    this.canvas.height = clip.height;
    this.context = this.canvas.getContext("2d");
    this.clock = new Clock({ frames: clip.frames, fps: clip.fps });
    const numbers = [...new Set(clip.exposures.map((e) => e.drawing))];
    const base = element.dataset.drawings;
    this.drawings = kept?.base === base ? kept : new Packed(base, numbers);
    this.clock.addEventListener("frame", () => this.draw());
    ["frame", "state"].forEach((kind) => {
      player.clock.addEventListener(kind, () => {
        // Of one length both show the same frame, whatever a slow picture costs.
        if (clip.frames === player.clock.frames) this.clock.goTo(player.clock.frame);
        else keepStep(this.clock, player.clock);
      });
    });
  }

  async load() {
    this.drawings.share(this.player.drawings, this.data.same);
    await this.drawings.load(() => this.draw());
    this.draw();
  }

  draw() {
    const picture = this.drawings.get(drawingAt(this.data.clip.exposures, this.clock.frame));
    if (!picture) return;
    this.context.clearRect(0, 0, this.canvas.width, this.canvas.height);
    this.context.drawImage(picture, 0, 0);
  }
}
