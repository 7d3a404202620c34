// A drill's page: plays its clips, hears what is tapped, named, ordered or put in place. What is right is the server's.

import { FULL, QUARTER } from "../clock.js";
import { Player } from "../player.js";
import { Beside } from "./beside.js";
import { Ordering } from "./ordering.js";
import { Placing } from "./placing.js";
import { Spotting } from "./spotting.js";

const REACTION_S = 0.25;
const MOST_TRIES = 20;
const TRY_AGAIN_MS = 2500;
const still = matchMedia("(prefers-reduced-motion: reduce)").matches;

let drill = null;

function boot() {
  const element = document.querySelector("[data-drill]:not([data-started])");
  if (!element) return;
  element.dataset.started = "true";
  const before = drill;
  drill = new Drill(element, before);
  before?.leave();
}

class Drill {
  constructor(element, before) {
    this.element = element;
    this.answered = "answered" in element.dataset;
    this.form = element.querySelector("[data-answer]");
    const { kind } = element.dataset;
    const holder = element.querySelector("[data-player]");
    this.player = holder ? new Player(holder, before?.player?.drawings) : null;
    if (this.player) this.play(holder, before?.beside?.drawings);
    this.spotting = kind === "spot" && this.form ? new Spotting(this.form, this.player, REACTION_S) : null;
    this.ordering = kind === "order" && this.form ? new Ordering(element, this.form) : null;
    this.placing = kind === "place" ? new Placing(this.player, this.form) : null;
    this.player?.setBare(this.bare);
    this.acts = this.actsOf();
    this.form?.addEventListener("htmx:configRequest", (event) => this.sending(event));
    this.fetchComing();
  }

  /** Nothing that was measured lies over a clip before it is answered. */
  get bare() {
    return !this.answered && this.element.dataset.kind !== "place";
  }

  play(holder, kept) {
    const { player } = this;
    const beside = holder.querySelector("[data-beside]");
    this.beside = beside ? new Beside(beside, player, kept) : null;
    player.setLayers({ neighbours: this.element.dataset.kind === "place", findings: true, shape: false });
    // Most of the second clip is in the first.
    player.load().then(() => this.beside?.load()).then(() => {
      this.began = performance.now();
      if (this.answered) this.showAnswer();
      else if (this.element.dataset.kind !== "place" && !still) player.clock.play();
      else if (this.element.dataset.kind !== "place") holder.closest("[data-drill]").querySelector(".still-words")?.removeAttribute("hidden");
      this.element.dataset.ready = "true";
    });
    player.clock.addEventListener("state", () => {
      if (player.clock.playing && still && !this.started) this.began = performance.now();
      this.started = this.started || player.clock.playing;
    });
  }

  /** The fault with its overlay; of one that was missed first once at a quarter of its speed. */
  showAnswer() {
    const { player } = this;
    const [finding] = player.data.findings;
    const there = () => {
      if (!finding) return;
      player.clock.stopAt(finding.first_frame);
      player.choose(finding.key);
    };
    if (!("slowly" in this.element.dataset) || still) {
      there();
      if (!finding && !still && this.element.dataset.kind !== "place") player.clock.play();
      return;
    }
    player.clock.setSpeed(QUARTER);
    player.clock.setLoop(false);
    const ended = () => {
      if (player.clock.playing) return;
      player.clock.removeEventListener("state", ended);
      player.clock.setLoop(true);
      player.clock.setSpeed(FULL);
      there();
    };
    player.clock.play();
    player.clock.addEventListener("state", ended);
  }

  actsOf() {
    const { player } = this;
    const clock = player?.clock;
    return {
      play: () => clock?.toggle(),
      on: () => clock?.stopAt(clock.frame + 1),
      back: () => clock?.stopAt(clock.frame - 1),
      "on-drawing": () => player?.stepping.step(1),
      "back-drawing": () => player?.stepping.step(-1),
      "step-set": () => this.nextSet(),
      quarter: () => player?.toggleQuarter(),
      tap: () => this.spotting?.tap(),
      clean: () => this.spotting?.clean(),
      watch: () => this.spotting?.watch(),
      point: () => this.spotting?.point(),
      "start-over": () => this.ordering?.startOver(),
      "put-back": () => this.placing?.putBack(),
      send: () => this.form?.requestSubmit(),
      next: () => this.element.querySelector("[data-next]")?.click(),
      help: () => document.getElementById("keys").showModal(),
    };
  }

  /** Stepping is for later where a clip is to be seen at speed first. */
  get stepping() {
    return this.answered || !this.bare || Boolean(this.spotting?.naming);
  }

  key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    const field = event.target.matches("input:not([type=radio], [type=checkbox]), select, textarea");
    if (field) return;
    if (this.placing?.key(event)) return;
    if (/^[1-6]$/.test(event.key) && this.choose(Number(event.key))) {
      event.preventDefault();
      return;
    }
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const act = KEYS[key];
    const pressed = event.target.matches("button, a, summary, input") && (key === " " || key === "Enter");
    if (!act || pressed || (STEPS.includes(act) && !this.stepping)) return;
    if (event.target.matches("input[type=radio]") && key.startsWith("Arrow")) return;
    event.preventDefault();
    this.acts[act]();
  }

  /** An answer, a principle or a drawing by its number; whether there was one. */
  choose(number) {
    const choice = this.form?.querySelector(`[data-choice="${number}"]`);
    if (choice) choice.click();
    return Boolean(choice) || Boolean(this.spotting?.open(number)) || Boolean(this.ordering?.lay(number));
  }

  clicked(event) {
    const act = event.target.closest("[data-act]")?.dataset.act;
    if (act && this.acts[act]) this.acts[act]();
    const layer = event.target.closest("[data-layer]");
    if (layer && this.player) {
      this.player.setLayers({ ...this.player.own, [layer.dataset.layer]: layer.checked });
      this.player.setBare(false);
    }
  }

  nextSet() {
    const select = this.element.querySelector("[data-step-set]");
    if (!select || !this.player) return;
    select.selectedIndex = (select.selectedIndex + 1) % select.options.length;
    this.player.stepping.choose(select.value);
  }

  /** After how many seconds it was told, the time that a hand takes left out. */
  sending(event) {
    const now = this.spotting?.first ?? performance.now();
    event.detail.parameters.after_s = Math.max(0, (now - (this.began ?? now)) / 1000 - REACTION_S).toFixed(2);
  }

  /** Have the next clip's pictures at hand before it is asked for; it may still be drawn for a while. */
  async fetchComing(tries = 0) {
    const { coming } = this.element.dataset;
    if (!coming || !this.element.isConnected || tries > MOST_TRIES) return;
    const answer = await fetch(coming);
    if (!answer.ok) return;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    if (!page.querySelector("[data-drill]")) {
      setTimeout(() => this.fetchComing(tries + 1), TRY_AGAIN_MS);
      return;
    }
    page.querySelectorAll("[data-drawings]").forEach((part) => fetch(part.dataset.drawings));
    page.querySelectorAll("[data-ordering] img").forEach((picture) => fetch(picture.getAttribute("src")));
  }

  leave() {
    this.player?.leave();
  }
}

const STEPS = ["on", "back", "on-drawing", "back-drawing", "quarter", "step-set", "point"];
const KEYS = {
  " ": "play",
  ArrowDown: "on",
  ArrowUp: "back",
  ArrowRight: "on-drawing",
  ArrowLeft: "back-drawing",
  s: "step-set",
  q: "quarter",
  a: "tap",
  n: "clean",
  p: "point",
  g: "next",
  Enter: "send",
  "?": "help",
};

boot();
document.addEventListener("htmx:afterSettle", boot);
document.addEventListener("keydown", (event) => drill?.key(event));
document.addEventListener("click", (event) => drill?.clicked(event));
