// The brief editor: values on one side, the guide that follows them on the other.

import { Clock } from "../clock.js";
import { Ask } from "./ask.js";
import { Stage } from "./stage.js";
import { Timing } from "./timing.js";
import { Values } from "./values.js";
import { complain } from "./fields.js";
import { scaleWithFrame } from "./frame-size.js";
import { listenForStarts } from "./starts.js";
import { show } from "./svg.js";
import { showWhen } from "./when.js";

const form = document.querySelector("[data-brief-editor]");
if (form) start();

function start() {
  const values = new Values(form);
  const ask = new Ask(form, form.dataset.live, () => !document.getElementById("timing").hidden);
  const clock = new Clock({ frames: 1, fps: 24 });
  const stage = new Stage(part("stage"), ask, clock);
  const timing = new Timing(part("chart-picture"), part("let-go"), values);
  let drawings = null;

  values.addEventListener("changed", () => {
    ask.soon();
    part("undo").disabled = values.past.length === 0;
    part("redo").disabled = values.future.length === 0;
    part("unsaved").hidden = !values.changed;
  });
  ask.addEventListener("answer", ({ detail }) => {
    if (Object.keys(detail.values).length) values.put(detail.values);
    if (detail.last) values.keep();
    complain(form, detail.errors, detail.guide?.notes || {});
    const hasTicks = Object.keys(timing.ticks()).length > 0;
    const others = detail.guide && drawings !== null && detail.guide.figures.length !== drawings;
    if (hasTicks && (others || detail.errors.__all__)) {
      // Ticks belong to drawings; when those become others, the ticks are let go.
      drawings = detail.guide ? detail.guide.figures.length : null;
      values.set({ ticks: {} });
      return;
    }
    if (!detail.guide) {
      stage.stale(Object.keys(detail.errors).length ? "Some values need another look; this is the guide from before." : "This brief has no guide.");
      return;
    }
    drawings = detail.guide.figures.length;
    paint(detail, stage, timing, clock);
  });
  ask.addEventListener("lost", () => stage.stale("The guide could not be fetched: there is no connection. Your values are still here."));

  showWhen(form, values);
  listenForStarts(form, values);
  scaleWithFrame(form, values, ask);
  listenForTabs(() => ask.send({}));
  listenForKeys(values, clock);
  window.addEventListener("beforeunload", (event) => { if (values.changed && !form.dataset.leaving) event.preventDefault(); });
  let waiting = null;
  // Whoever types on while it waits to be sent has not finished.
  form.addEventListener("input", () => { waiting = null; delete form.dataset.leaving; });
  form.addEventListener("submit", (event) => {
    form.dataset.leaving = "1";
    // What a drag or another frame changes is still being worked out: nothing is sent without it.
    if (!ask.busy) return;
    event.preventDefault();
    const { submitter } = event;
    waiting = submitter;
    ask.settled().then(() => { if (waiting === submitter) form.requestSubmit(submitter); });
  });
  ask.soon();
  if (!matchMedia("(prefers-reduced-motion: reduce)").matches) clock.play();
}

function part(name) {
  return form.querySelector(`[data-${name}]`);
}

function paint({ guide, minded }, stage, timing, clock) {
  clock.frames = guide.frames;
  clock.fps = guide.fps;
  if (clock.frame > guide.frames) clock.goTo(1);
  stage.show(guide);
  if (guide.chart) timing.show(guide.chart);
  show(part("strip"), guide.strip);
  list(part("words"), guide.words);
  part("lengths").textContent = guide.lengths;
  tell(clock);
  if (minded) mind(minded);
}

function mind(minded) {
  const place = part("minded");
  const short = part("minded-short");
  short.classList.toggle("minds", minded.length > 0);
  short.textContent = minded.length ? `The checks would mind ${minded.length}` : "The checks find nothing in it";
  place.classList.toggle("minds", minded.length > 0);
  place.textContent = minded.length
    ? "Drawn exactly like this, the checks would mind the following; since the guide asks for it, students are not told:"
    : "A clip drawn exactly over this guide gets no finding.";
  if (minded.length) {
    const items = document.createElement("ul");
    list(items, minded);
    place.append(items);
  }
}

function list(place, lines) {
  place.replaceChildren(...lines.map((line) => {
    const item = document.createElement("li");
    item.textContent = line;
    return item;
  }));
}

function tell(clock) {
  part("where").textContent = `Frame ${clock.frame} of ${clock.frames}`;
  const bars = [...part("strip").querySelectorAll("rect")];
  const here = bars.findLast((bar) => Number(bar.dataset.frame) <= clock.frame);
  bars.forEach((bar) => bar.classList.toggle("here", bar === here));
}

function listenForTabs(turned) {
  const tabs = [...form.querySelectorAll("[data-tab]")];
  tabs.forEach((tab) => tab.addEventListener("click", () => tabs.forEach((one) => {
    one.setAttribute("aria-selected", String(one === tab));
    document.getElementById(one.getAttribute("aria-controls")).hidden = one !== tab;
    if (one === tab) turned();
  })));
}

function listenForKeys(values, clock) {
  const play = part("play");
  clock.addEventListener("frame", () => tell(clock));
  clock.addEventListener("state", () => {
    play.textContent = clock.playing ? "Stop" : "Play";
    play.setAttribute("aria-pressed", String(clock.playing));
  });
  play.addEventListener("click", () => clock.toggle());
  part("undo").addEventListener("click", () => values.undo());
  part("redo").addEventListener("click", () => values.redo());
  document.addEventListener("keydown", (event) => {
    const typing = ["INPUT", "TEXTAREA", "SELECT"].includes(event.target.tagName);
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) values.redo();
      else values.undo();
    } else if (event.key === " " && !typing && !["BUTTON", "SUMMARY", "A"].includes(event.target.tagName)) {
      event.preventDefault();
      clock.toggle();
    }
  });
}
