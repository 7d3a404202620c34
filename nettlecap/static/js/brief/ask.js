// Asks the server for the guide of the values as they are: one question at a time, always about the latest values. A
// change of the guide itself (a handle that is dragged, another frame) is asked along; what it does to the values, the
// server says.

const PAUSE_MS = 350;

export class Ask extends EventTarget {
  /** ``wantsChart`` tells whether the timing chart shows, and so has to be drawn too. */
  constructor(form, url, wantsChart) {
    super();
    this.form = form;
    this.url = url;
    this.wantsChart = wantsChart;
    this.busy = false;
    this.again = null;
    this.timer = null;
  }

  /** The values changed: ask now, and once they rest also what the checks would say. */
  soon() {
    this.later();
    this.send({});
  }

  /** What a change of the guide does to the values; ``last`` tells that it ends there. */
  change(what, last = true) {
    this.later();
    this.send({ change: what, last });
  }

  later() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.send({ judged: true }), PAUSE_MS);
  }

  async send(asked) {
    if (this.busy) {
      const waits = this.again || {};
      // A frame that changes twice goes from what it was before both to what it is now.
      const twice = waits.change?.from && asked.change?.from;
      const change = twice ? { from: waits.change.from, to: asked.change.to } : asked.change || waits.change;
      this.again = { change, judged: Boolean(asked.judged || waits.judged), last: Boolean(asked.last || waits.last) };
      return;
    }
    this.busy = true;
    this.form.setAttribute("aria-busy", "true");
    try {
      const answer = await fetch(this.url, { method: "POST", body: this.question(asked) });
      if (!answer.ok) throw new Error(String(answer.status));
      this.tell("answer", { ...(await answer.json()), last: asked.last });
    } catch {
      this.tell("lost");
    }
    this.busy = false;
    this.form.setAttribute("aria-busy", "false");
    if (this.again) {
      const next = this.again;
      this.again = null;
      this.send(next);
      return;
    }
    this.tell("idle");
  }

  /** Once nothing is asked any more. */
  settled() {
    if (!this.busy) return Promise.resolve();
    return new Promise((resolve) => { this.addEventListener("idle", resolve, { once: true }); });
  }

  question({ judged, change }) {
    const values = new URLSearchParams(new FormData(this.form));
    if (judged) values.set("judged", "1");
    if (this.wantsChart()) values.set("chart", "1");
    if (change) values.set("change", JSON.stringify(change));
    return values;
  }

  tell(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }
}
