// Asks the server for the guide of the values as they are: one question at a time, always about the latest values.

const PAUSE_MS = 350;

export class Ask extends EventTarget {
  /** ``wantsChart`` tells whether the timing chart shows, and so has to be drawn too. */
  constructor(form, url, wantsChart) {
    super();
    this.form = form;
    this.url = url;
    this.wantsChart = wantsChart;
    this.busy = false;
    this.again = false;
    this.timer = null;
  }

  /** The values changed: ask now, and once they rest also what the checks would say. */
  soon() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.send(true), PAUSE_MS);
    this.send(false);
  }

  async send(judged) {
    if (this.busy) {
      this.again = this.again || { judged: false };
      this.again.judged = this.again.judged || judged;
      return;
    }
    this.busy = true;
    this.form.setAttribute("aria-busy", "true");
    const values = new URLSearchParams(new FormData(this.form));
    if (judged) values.set("judged", "1");
    if (this.wantsChart()) values.set("chart", "1");
    try {
      const answer = await fetch(this.url, { method: "POST", body: values });
      if (!answer.ok) throw new Error(String(answer.status));
      this.tell("answer", await answer.json());
    } catch {
      this.tell("lost");
    }
    this.busy = false;
    this.form.setAttribute("aria-busy", "false");
    if (this.again) {
      const { judged: next } = this.again;
      this.again = false;
      this.send(next);
    }
  }

  tell(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }
}
