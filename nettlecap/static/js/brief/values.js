// The values of the brief's form: read, set, and remembered for undoing.

const NOT_KEPT = new Set(["csrfmiddlewaretoken", "act", "file"]);

export class Values extends EventTarget {
  constructor(form) {
    super();
    this.form = form;
    this.past = [];
    this.future = [];
    this.now = this.snapshot();
    this.saved = JSON.stringify(this.now);
    form.addEventListener("input", (event) => {
      if (event.target.form === form && event.target.name) this.announce();
    });
    form.addEventListener("change", (event) => {
      if (event.target.form === form && event.target.name) this.keep();
    });
  }

  get(name) {
    return this.form.elements.namedItem(name)?.value ?? "";
  }

  number(name) {
    return Number.parseFloat(this.get(name));
  }

  /** Set some values; they are only remembered for undoing once keep() is called. */
  set(values) {
    Object.entries(values).forEach(([name, value]) => put(this.form.elements.namedItem(name), value));
    this.announce();
  }

  /** Set some values that the server worked out; nothing is asked again for them. */
  put(values) {
    Object.entries(values).forEach(([name, value]) => put(this.form.elements.namedItem(name), value));
  }

  /** End of one change: from here undo leads back to before it. */
  keep() {
    const next = this.snapshot();
    if (JSON.stringify(next) === JSON.stringify(this.now)) return;
    this.past.push(this.now);
    this.future = [];
    this.now = next;
    this.announce();
  }

  undo() {
    this.swap(this.past, this.future);
  }

  redo() {
    this.swap(this.future, this.past);
  }

  get changed() {
    return JSON.stringify(this.snapshot()) !== this.saved;
  }

  swap(from, to) {
    if (!from.length) return;
    to.push(this.now);
    this.now = from.pop();
    Object.entries(this.now).forEach(([name, value]) => put(this.form.elements.namedItem(name), value));
    this.dispatchEvent(new Event("restored"));
    this.announce();
  }

  snapshot() {
    const fields = [...this.form.elements].filter((field) => field.name && !NOT_KEPT.has(field.name) && field.type !== "submit");
    return Object.fromEntries(fields.map((field) => [field.name, field.type === "checkbox" ? field.checked : field.value]));
  }

  announce() {
    this.dispatchEvent(new Event("changed"));
  }
}

function put(field, value) {
  if (!field) return;
  if (field.type === "checkbox") field.checked = Boolean(value);
  else if (value !== null && typeof value === "object") field.value = JSON.stringify(value);
  else field.value = value === null || value === undefined ? "" : String(value);
}
