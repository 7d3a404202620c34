// Another timing for the same drawings, tried at once beside the original: on the sheet each drawing is a block as long as
// it shows, whose end can be dragged. Each change is worked out by the server.

import { Clock, keepStep } from "./clock.js";

// As tall as a row of the sheet.
const FRAME_PX = 21;

export class Retime {
  constructor(player) {
    this.player = player;
    this.box = document.querySelector("[data-retime]");
    this.frame = player.element.querySelector("[data-retimed]");
    if (!this.box || !this.frame) return;
    this.context = this.frame.querySelector("canvas").getContext("2d");
    const proposed = document.getElementById("proposed-timing");
    const own = player.data.clip.exposures.map((e) => [e.drawing, e.frames]);
    this.timing = proposed ? JSON.parse(proposed.textContent) : own;
    this.before = [];
    this.chosen = { first: 0, last: 0 };
    this.from = 0;
    this.end = 0;
    this.form = this.box.querySelector("[data-keep-timing]");
    this.clock = new Clock({ frames: this.frames, fps: Number(this.box.dataset.fps) });
    this.clock.addEventListener("frame", () => this.draw());
    player.clock.addEventListener("state", () => this.follow());
    player.element.addEventListener("view", () => this.draw());
    player.clock.addEventListener("frame", () => this.follow());
    this.box.addEventListener("toggle", () => this.shown());
    this.box.addEventListener("click", (event) => this.clicked(event));
    this.blocks = document.querySelector("[data-blocks]");
    this.blocks.addEventListener("keydown", (event) => this.key(event));
    this.blocks.addEventListener("pointerdown", (event) => this.grab(event));
    this.blocks.addEventListener("pointermove", (event) => this.drag(event));
    ["pointerup", "pointercancel"].forEach((kind) => this.blocks.addEventListener(kind, () => this.drop()));
    if (this.form) {
      this.form.querySelector("[name=fps]").value = this.box.dataset.fps;
      this.form.addEventListener("change", () => this.rate());
      player.hear(document, "htmx:afterSettle", () => this.kept());
    }
    this.paint();
  }

  get frames() {
    return this.timing.reduce((sum, [, frames]) => sum + frames, 0);
  }

  toggle() {
    if (!this.box) return;
    this.box.open = !this.box.open;
    // At once, so that the next key already finds it.
    this.shown();
  }

  shown() {
    this.player.pressed("retime", this.box.open);
    this.frame.hidden = !this.box.open;
    this.blocks.hidden = !this.box.open;
    if (this.box.open) this.blocks.focus({ preventScroll: true });
    this.player.fit();
    this.follow();
    this.draw();
  }

  follow() {
    if (!this.frame.hidden) keepStep(this.clock, this.player.clock);
  }

  /** What is proposed can be withdrawn, and its exposure sheet had; it may have been taken back. */
  kept() {
    this.box.classList.toggle("proposed", document.getElementById("mark-column")?.dataset.proposed === "1");
  }

  rate() {
    const fps = Number(this.form.querySelector("[name=fps]").value.replace(",", "."));
    if (fps > 0) this.clock.fps = fps;
    this.paint();
  }

  clicked(event) {
    const change = event.target.closest("[data-change]");
    if (change) this.change(change.dataset.change, change.dataset.count || "1");
    if (event.target.closest("[data-step-back]") && this.before.length) this.set(this.before.pop());
  }

  /** Take hold of the end of a drawing, to let it show longer; or choose drawings from here on. */
  grab(event) {
    const block = event.target.closest("[data-block]");
    if (!block) return;
    const index = Number(block.dataset.block);
    if (this.form && event.target.classList.contains("block-end")) {
      event.preventDefault();
      this.choose(index, false);
      this.held = { index, from: event.clientY, frames: this.timing[index][1], by: 0 };
      this.blocks.setPointerCapture(event.pointerId);
      return;
    }
    this.choosing = true;
    this.choose(index, event.shiftKey);
  }

  drag(event) {
    if (this.held) {
      const { index, from, frames } = this.held;
      this.held.by = Math.max(1 - frames, Math.round((event.clientY - from) / FRAME_PX));
      const block = this.blocks.children[index];
      block.style.height = `${(frames + this.held.by) * FRAME_PX}px`;
      this.say(`Drawing ${this.timing[index][0]}: ${frames + this.held.by} frames`);
    } else if (this.choosing && event.buttons === 1) {
      const block = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-block]");
      if (block && Number(block.dataset.block) !== this.end) this.choose(Number(block.dataset.block), true);
    }
  }

  drop() {
    const { held } = this;
    this.held = null;
    this.choosing = false;
    if (held?.by) this.change("longer", String(held.by));
    else if (held) this.paint();
  }

  key(event) {
    const longer = { "+": 1, "=": 1, "-": -1 }[event.key];
    const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!by && !(longer && this.form)) return;
    event.preventDefault();
    event.stopPropagation();
    if (longer) this.change("longer", String(longer));
    else this.choose((event.shiftKey ? this.end : this.chosen.first) + by, event.shiftKey);
  }

  choose(index, more) {
    const wanted = Math.min(this.timing.length - 1, Math.max(0, index));
    this.from = more ? this.from ?? this.chosen.first : wanted;
    this.end = wanted;
    this.chosen = { first: Math.min(this.from, wanted), last: Math.max(this.from, wanted) };
    this.clock.stopAt(1 + this.timing.slice(0, wanted).reduce((sum, [, frames]) => sum + frames, 0));
    this.paint();
  }

  async change(kind, count) {
    const values = { timing: JSON.stringify(this.timing), kind, count, ...this.chosen };
    const answer = await fetch(this.box.dataset.retime, {
      method: "POST",
      headers: JSON.parse(document.body.getAttribute("hx-headers")),
      body: new URLSearchParams(values),
    });
    const words = await answer.text();
    if (!answer.ok) {
      this.say(words);
      return;
    }
    this.before.push(this.timing);
    this.set(JSON.parse(words).timing);
  }

  set(timing) {
    this.timing = timing;
    this.chosen.last = Math.min(this.chosen.last, timing.length - 1);
    this.chosen.first = Math.min(this.chosen.first, this.chosen.last);
    this.clock.frames = this.frames;
    if (this.clock.frame > this.frames) this.clock.stopAt(this.frames);
    this.paint();
    this.draw();
  }

  paint() {
    let first = 1;
    this.blocks.replaceChildren(...this.timing.map(([drawing, frames], index) => {
      const block = this.block(drawing, frames, index, first);
      first += frames;
      return block;
    }));
    this.mark();
    const own = this.player.clock.frames;
    this.say(`${this.frames} frames, ${(this.frames / this.clock.fps).toFixed(2)} s; the original has ${own}.`);
    if (this.form) this.form.querySelector("[name=timing]").value = JSON.stringify(this.timing);
  }

  block(drawing, frames, index, first) {
    const block = document.createElement("div");
    block.className = "block";
    block.dataset.block = index;
    block.style.height = `${frames * FRAME_PX}px`;
    block.setAttribute("role", "option");
    block.setAttribute("aria-label", `Drawing ${drawing} for ${frames} frames from frame ${first}`);
    const chosen = this.chosen.first <= index && index <= this.chosen.last;
    block.setAttribute("aria-selected", String(chosen));
    block.append(part("f", first), part("d", drawing), part("g", frames === 1 ? "" : `${frames} frames`), part("block-end", ""));
    return block;
  }

  say(words) {
    this.box.querySelector("[data-retimed-words]").textContent = words;
  }

  draw() {
    if (this.frame.hidden) return;
    const { data, drawings, picture } = this.player;
    this.context.canvas.width = data.clip.width;
    this.context.canvas.height = data.clip.height;
    let left = this.clock.frame;
    const at = this.timing.findIndex(([, frames]) => (left -= frames) <= 0);
    const [drawing] = this.timing[Math.max(0, at)];
    this.player.view.apply(this.context);
    if (drawings.get(drawing)) picture.layIn(this.context, drawings.get(drawing), drawing);
    this.mark(at);
  }

  /** Which drawing shows. */
  mark(at = this.showing || 0) {
    this.showing = Math.max(0, at);
    this.blocks.querySelectorAll(".now").forEach((block) => block.classList.remove("now"));
    this.blocks.children[this.showing]?.classList.add("now");
  }
}

function part(kind, words) {
  const element = document.createElement("span");
  element.className = kind;
  element.textContent = words;
  return element;
}
