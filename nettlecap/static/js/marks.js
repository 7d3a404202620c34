// The mark column: which finding is chosen, and what its buttons and fields do by key. What they mean is the server's.

import { stepFinding } from "./exposures.js";

export class Marks {
  constructor(player, charts, room) {
    this.player = player;
    this.charts = charts;
    this.room = room;
    player.hear(document, "click", (event) => this.clicked(event));
    player.hear(document, "focusin", (event) => {
      const item = event.target.closest?.("[data-finding]");
      // Not for a press of the pointer: opening would move the button away from under it before it is let go.
      if (!event.target.matches(":focus-visible")) return;
      if (item && item.dataset.finding !== this.player.chosen) this.choose(item.dataset.finding, false);
    });
    player.hear(document, "toggle", (event) => this.opened(event.target), { capture: true });
    player.hear(document, "htmx:beforeRequest", (event) => this.deciding(event));
    player.hear(document, "htmx:afterSettle", () => {
      this.moveOn();
      this.paint();
    });
    this.paint();
  }

  clicked(event) {
    const phrase = event.target.closest("[data-phrase]");
    if (phrase) this.insert(phrase);
    if (event.target.closest("button, a, input, textarea, select, summary")) return;
    const place = event.target.closest("[data-finding], .own-note, .srow [data-key]");
    if (!place) return;
    const key = place.dataset.finding || place.dataset.key;
    if (key) this.choose(key, true);
    else this.player.clock.stopAt(Number(place.dataset.first));
  }

  item(key) {
    return document.querySelector(`[data-finding="${CSS.escape(key)}"]`);
  }

  /** Open a finding, and go to its first frame. */
  choose(key, go) {
    const finding = this.player.finding(key);
    if (go && finding) this.player.clock.stopAt(finding.first_frame);
    this.player.choose(key);
    if (finding) {
      this.charts?.lend(finding.chart);
      this.player.looking.onFinding();
    }
    this.paint();
    this.item(key)?.scrollIntoView({ block: "nearest" });
  }

  step(by) {
    const shown = [...document.querySelectorAll("[data-finding]")].map((item) => item.dataset.finding);
    const inOrder = this.player.data.findings.filter((f) => shown.includes(f.key));
    const wanted = stepFinding(inOrder, this.player.chosen, by);
    if (wanted) this.choose(wanted.key, true);
  }

  /** Remember what is being decided, so as to go on from there once it is kept. */
  deciding(event) {
    const button = event.target.closest?.(".verdicts button");
    this.decided = button?.closest("[data-finding]").dataset.finding || null;
  }

  /** On to the next open finding, after the one that was decided or else from the first; taking back stays where it is. */
  moveOn() {
    const key = this.decided;
    this.decided = null;
    if (!key || !this.item(key)?.matches(".agreed, .dismissed")) return;
    const { findings } = this.player.data;
    const at = findings.findIndex((f) => f.key === key);
    const inTurn = [...findings.slice(at + 1), ...findings.slice(0, at)];
    const open = inTurn.find((f) => this.item(f.key)?.matches(".finding:not(.agreed):not(.dismissed)"));
    if (open) this.choose(open.key, true);
  }

  paint() {
    document.querySelectorAll(".finding.chosen").forEach((item) => item.classList.remove("chosen"));
    const chosen = this.player.chosen ? this.item(this.player.chosen) : null;
    chosen?.classList.add("chosen");
    this.room?.tell(chosen);
    const here = document.querySelector(`.srow[data-frame="${this.player.clock.frame}"]`);
    here?.classList.add("here");
  }

  press(kind) {
    if (this.player.chosen) this.item(this.player.chosen)?.querySelector(`.${kind}`)?.click();
  }

  /** The note form was opened by its heading, not by key. */
  opened(box) {
    if (box.id === "note-box" && box.open && !box.contains(document.activeElement?.closest("form") ?? null)) this.write();
  }

  /** Open the note form with the range that is marked on the sheet, the chosen finding's, or the frame that shows. */
  async write() {
    const box = document.getElementById("note-box");
    if (!box) return;
    box.open = true;
    const { frame } = this.player.clock;
    const finding = this.player.finding(this.player.chosen);
    const about = finding && finding.first_frame <= frame && frame <= finding.last_frame ? finding : null;
    const range = this.player.range || (about && { first: about.first_frame, last: about.last_frame });
    const { first, last } = range || { first: frame, last: frame };
    box.querySelector("[data-first-frame]").value = first;
    box.querySelector("[data-last-frame]").value = last;
    box.querySelector("[data-note-code]").value = about?.code || "";
    if (about) box.querySelector("[name=principle]").value = about.principle;
    box.querySelector("textarea").focus();
    const asked = { key: about?.key || "", principle: about?.principle || "", first_frame: first, last_frame: last };
    await this.offer(box.querySelector("[data-phrases]"), asked);
  }

  /** The marker's own phrases that fit, below the note. */
  async offer(place, asked) {
    const answer = await fetch(`${place.dataset.phrases}?${new URLSearchParams(asked)}`);
    if (!answer.ok) return;
    place.outerHTML = await answer.text();
    window.htmx.process(document.getElementById("phrases"));
  }

  /** Put a phrase into the note: the one that was pressed, or the likeliest. */
  insert(phrase) {
    const words = (phrase || document.querySelector("[data-phrase]"))?.textContent;
    const text = document.getElementById("note-text");
    if (!words || !text) return;
    text.value = text.value ? `${text.value.trimEnd()} ${words}` : words;
    text.focus();
  }

  async quote() {
    await this.write();
    this.insert();
  }
}
