// How the desk's room is shared: the chart folds for a larger picture, and with another clip beside it the columns at both
// sides narrow. What a narrow column no longer says of the chosen finding stands below the picture.

const KEPT = "nettlecap-chart-folded";

export class Room {
  constructor(player) {
    this.player = player;
    this.grid = player.element.closest(".desk-grid");
    this.told = player.element.querySelector("[data-told-below]");
    player.element.addEventListener("click", (event) => this.clicked(event));
    if (!this.grid) return;
    ["focusin", "focusout", "htmx:afterSettle"].forEach((kind) => player.hear(document, kind, () => this.open()));
    this.setFolded(localStorage.getItem(KEPT) === "yes");
  }

  /** A narrow mark column opens while somebody writes in it. */
  open() {
    // When one field is left for another, the second has the focus only after this event.
    queueMicrotask(() => {
      const writes = document.activeElement?.matches(".mark-column :is(textarea, .note-box *, .phrases *)");
      this.grid.classList.toggle("writing", Boolean(writes));
    });
  }

  /** Fold the chart, or unfold it; so it stays on the next clips. */
  fold() {
    if (!this.grid) return;
    const folded = !this.grid.classList.contains("folded");
    localStorage.setItem(KEPT, folded ? "yes" : "no");
    this.setFolded(folded);
  }

  setFolded(folded) {
    this.grid.classList.toggle("folded", folded);
    this.player.pressed("fold", !folded);
    this.player.fit();
  }

  /** The mark column in full, laid over the picture's edge, or narrow again. */
  widen() {
    const wide = this.grid?.classList.toggle("marks-in-full");
    document.querySelectorAll('[data-act="widen"]').forEach((button) => button.setAttribute("aria-pressed", String(wide)));
  }

  clicked(event) {
    const button = event.target.closest("[data-opens]");
    if (!button) return;
    const box = this.player.element.querySelector(`[data-opened="${button.dataset.opens}"]`);
    setOpened(box, box.hidden);
    if (!box.hidden) box.querySelector("select")?.focus();
  }

  /** Say below the picture what was found, with what can be decided; nothing where nothing is chosen. */
  tell(item) {
    if (!this.told) return;
    this.told.replaceChildren();
    if (!item) return;
    const words = document.createElement("p");
    const frames = document.createElement("b");
    frames.textContent = item.querySelector(".frames").textContent;
    words.append(frames, ` ${item.querySelector(".message").textContent} `);
    const advice = document.createElement("span");
    advice.className = "advice";
    advice.textContent = item.querySelector(".advice").firstChild.textContent;
    words.append(advice);
    this.told.append(words);
    ["agree", "dismiss"].forEach((act) => {
      const own = item.querySelector(`.verdicts .${act}`);
      if (!own) return;
      const button = document.createElement("button");
      button.type = "button";
      button.className = "quiet";
      button.dataset.act = act;
      button.textContent = own.textContent;
      button.setAttribute("aria-pressed", own.getAttribute("aria-pressed"));
      this.told.append(button);
    });
  }
}

/** Open or close what a button opens, from elsewhere than the button. */
export function setOpened(box, open) {
  box.hidden = !open;
  const button = document.querySelector(`[data-opens="${box.dataset.opened}"]`);
  button?.setAttribute("aria-expanded", String(open));
}
