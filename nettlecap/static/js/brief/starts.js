// Starting from a kind of ball, an earlier brief, a blank, or a file.

export function listenForStarts(form, values) {
  form.querySelectorAll("[data-start]").forEach((button) => {
    button.addEventListener("click", () => take(form, values, button.dataset.start));
  });
  const earlier = form.querySelector("[data-start-earlier]");
  earlier?.addEventListener("change", () => {
    if (earlier.value) take(form, values, earlier.value);
    earlier.value = "";
  });
  form.querySelector("[data-import]")?.addEventListener("change", (event) => {
    form.dataset.leaving = "1";
    event.target.form.requestSubmit();
  });
}

async function take(form, values, from) {
  const size = { width: values.number("canvas_width") || null, height: values.number("canvas_height") || null };
  const query = new URLSearchParams({ from, canvas: JSON.stringify(size.width && size.height ? size : null) });
  const answer = await fetch(`${form.dataset.starts}?${query}`);
  if (!answer.ok) return;
  const found = await answer.json();
  delete found.due_at;
  values.set(from.startsWith("ball:") ? theBallOf(found) : found);
  values.keep();
}

// A kind of ball changes the ball and its way, and leaves the rest of the brief as it is.
const BALL = ["material", "diameter", "height", "distance", "start_x", "start", "end", "contacts", "keeps", "hop_s", "diameter_m",
  "stretch", "squash", "hang", "ticks", "ground", "ground_fixed", "with_guide", "loop"];

function theBallOf(found) {
  return Object.fromEntries(BALL.map((name) => [name, found[name]]));
}
