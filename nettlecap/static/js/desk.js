// Puts a page with a clip together: player, sheet, chart, marks and keys around one clock.

import { Chart } from "./chart.js";
import { Companion } from "./companion.js";
import { DrawOver } from "./draw-over.js";
import { FirstLook } from "./first-look.js";
import { listen } from "./keys.js";
import { Marks } from "./marks.js";
import { Mended } from "./mended.js";
import { Place } from "./place.js";
import { Player } from "./player.js";
import { Retime } from "./retime.js";
import { Room } from "./room.js";
import { Ruler } from "./ruler.js";
import { keepInStep } from "./sound.js";
import { Sheet } from "./sheet.js";
import { Spent } from "./spent.js";
import { Ticks } from "./ticks.js";
import { takeTurns } from "./turns.js";
import { keepTyped } from "./typed.js";

// What these buttons do, they send to the server themselves.
const SENT = ["return", "next", "take-back"];

// A clip may be there from the start, or arrive once the worker is through with it.
let player = null;
boot();
takeTurns();
keepTyped();
document.addEventListener("htmx:afterSettle", boot);

// What a decision swaps in must not jump: each scrolled part is put back to where it was.
const SCROLLED = [".rows", ".principles"];
const places = new Map();
document.addEventListener("htmx:beforeSwap", () => {
  SCROLLED.forEach((part) => places.set(part, document.querySelector(part)?.scrollTop || 0));
});
document.addEventListener("htmx:afterSettle", () => {
  places.forEach((top, part) => {
    const element = document.querySelector(part);
    if (element) element.scrollTop = top;
  });
  places.clear();
});

// The server is told which marks were seen, so that nobody's are written over unseen.
document.addEventListener("htmx:configRequest", (event) => {
  const column = document.getElementById("mark-column");
  if (column?.dataset.seen !== undefined) event.detail.headers["X-Marks-Seen"] = column.dataset.seen;
});

// How long somebody was at it goes with whatever they decide.
const spent = new Spent(document);
document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.verb === "post") event.detail.headers["X-Seconds"] = String(spent.take());
});

function boot() {
  if (player && !player.element.isConnected) {
    player.leave();
    player = null;
  }
  const element = document.querySelector("[data-player]:not([data-started])");
  if (!element) return;
  element.dataset.started = "true";
  player = new Player(element);
  start();
}

function start() {
  const { clock } = player;
  const sheet = document.querySelector("[data-sheet]");
  const chart = document.querySelector("[data-chart]");
  const shown = sheet ? new Sheet(sheet, player) : null;
  const charts = chart ? new Chart(player) : null;
  const look = new FirstLook(player);
  const ticks = new Ticks(player);
  const mended = new Mended(player);
  const ruler = new Ruler(player);
  const retime = new Retime(player);
  const companion = new Companion(player);
  const pens = new DrawOver(player);
  const room = new Room(player);
  const marks = new Marks(player, charts, room);
  const place = player.element.dataset.place ? new Place(player) : null;
  const audio = player.element.querySelector("[data-sound]");
  if (audio) keepInStep(audio, clock);
  const acts = actsOf(player, { marks, sheet: shown, place, charts, look, ticks, mended, ruler, retime, pens, companion, room });
  listen(player, acts);
  player.hear(document, "click", (event) => {
    const go = event.target.closest("[data-go]")?.dataset.go;
    if (go) clock.stopAt(Number(go));
    const act = event.target.closest("[data-act]")?.dataset.act;
    if (act && acts[act] && !SENT.includes(act)) acts[act]();
  });
  const started = player;
  started.load().then(() => {
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    if (!still && clock.frame === 1 && !started.chosen) clock.play();
  });
}

function actsOf(player, { marks, sheet, place, charts, look, ticks, mended, ruler, retime, pens, companion, room }) {
  const { clock, stepping } = player;
  return {
    play: () => clock.toggle(),
    on: () => clock.stopAt(clock.frame + 1),
    back: () => clock.stopAt(clock.frame - 1),
    "on-drawing": () => stepping.step(1),
    "back-drawing": () => stepping.step(-1),
    "step-set": () => stepping.nextSet(),
    fewer: () => stepping.more(-1),
    more: () => stepping.more(1),
    flip: () => {
      if (!companion.flip()) stepping.flip();
    },
    beside: () => companion.next(),
    "another-way": () => companion.nextWay(),
    pin: () => stepping.pin(),
    call: () => callDrawing(player),
    measure: () => charts?.next(),
    fold: () => room.fold(),
    widen: () => room.widen(),
    ticks: () => ticks.toggle(),
    mended: () => mended.toggle(),
    ruler: () => ruler.toggle(),
    draw: () => pens.next(),
    "close-up": () => player.looking.toggle(),
    retime: () => retime.toggle(),
    tap: () => look.tap(),
    "look-done": () => look.done(),
    "take-back": () => document.querySelector('[data-act="take-back"]')?.click(),
    extend: (by) => sheet?.extend(by),
    first: () => clock.stopAt(1),
    last: () => clock.stopAt(clock.frames),
    loop: () => clock.setLoop(!clock.loop),
    quarter: () => player.toggleQuarter(),
    overlays: () => player.element.dispatchEvent(new CustomEvent("all-layers")),
    finding: (by) => marks.step(by),
    agree: () => marks.press("agree"),
    dismiss: () => marks.press("dismiss"),
    judged: () => document.querySelector(".finding.chosen [data-judged]")?.click(),
    place: () => place?.toggle(),
    "place-back": () => place?.takeBack(),
    "place-figure": () => place?.figure(),
    "place-turn": () => place?.turn(),
    "place-unsure": () => place?.nextUnsure(),
    "place-undo": () => place?.undo(),
    "still-back": () => place?.stillBack(),
    "place-again": () => place?.again(),
    write: () => marks.write(),
    quote: () => marks.quote(),
    points: (number) => document.querySelector(`[data-points="${number}"]`)?.focus(),
    remark: () => document.getElementById("remark")?.focus(),
    return: () => document.querySelector('[data-act="return"]')?.click(),
    next: () => document.querySelector('[data-act="next"]')?.click(),
    help: () => toggle(document.getElementById("keys")),
    leave: () => {
      pens.leave();
      leave();
    },
  };
}

/** Call the drawing that shows a key, a breakdown or an in-between, by turns; the server keeps it. */
function callDrawing(player) {
  const form = document.querySelector("[data-call]");
  if (!form) return;
  const { drawing, next } = player.stepping.role();
  form.querySelector("[name=drawing]").value = drawing;
  form.querySelector("[name=role]").value = next;
  form.requestSubmit();
}

function toggle(dialog) {
  if (dialog.open) dialog.close();
  else dialog.showModal();
}

function leave() {
  document.querySelector("dialog[open]")?.close();
  document.activeElement?.blur();
}
