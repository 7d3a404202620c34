// The first look: the clip plays with nothing shown of what was found or measured, and the marker taps whenever something
// is off.
// Taps land on the sheet, allowing for reaction time. What they are worth is the server's.

const OFF = "nettlecap-first-look";
const REACTION_S = 0.25;

export class FirstLook {
  constructor(player) {
    this.player = player;
    this.taps = [];
    this.box = document.querySelector("[data-first-look]");
    if (!this.box) return;
    if (localStorage.getItem(OFF) === "off") {
      this.end();
      return;
    }
    document.body.classList.add("looking");
    this.box.hidden = false;
    player.setBare(true);
    this.box.addEventListener("click", (event) => this.clicked(event));
    player.hear(document, "htmx:afterSettle", () => {
      if (!document.querySelector("[data-first-look]")) this.end();
    });
  }

  get running() {
    return document.body.classList.contains("looking");
  }

  clicked(event) {
    const act = event.target.closest("[data-look]")?.dataset.look;
    if (act === "tap") this.tap();
    if (act === "off") {
      localStorage.setItem(OFF, "off");
      this.end();
    }
  }

  /** Something is off: at the frame that showed when it was seen, not when the key went down. */
  tap() {
    if (!this.running) return;
    const { clock } = this.player;
    const late = clock.playing ? Math.round(REACTION_S * clock.fps * clock.speed) : 0;
    const frame = clock.frame - late < 1 && clock.loop && clock.playing
      ? clock.frame - late + clock.frames
      : Math.max(1, clock.frame - late);
    this.taps.push(frame);
    this.box.querySelector("[name=taps]").value = this.taps.join(",");
    this.box.querySelector("[data-count]").textContent = String(this.taps.length);
    document.querySelector(`[data-sheet] .srow[data-frame="${frame}"]`)?.classList.add("tapped");
  }

  done() {
    if (this.running) this.box.querySelector("form").requestSubmit();
  }

  end() {
    document.body.classList.remove("looking");
    this.box.hidden = true;
    this.player.setBare(false);
  }
}
