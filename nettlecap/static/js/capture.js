// The capture stand: sheets are laid under a make-believe camera, a picture a press, and handed on as a clip.

const stand = document.querySelector("[data-stand]");

if (stand) new Stand(stand);

function Stand(element) {
  const camera = element.querySelector("[data-camera]");
  const list = element.querySelector("[data-taken]");
  const sheets = Number(element.dataset.sheets);
  const taken = [];
  let sheet = 1;
  let presses = 0;
  let busy = false;

  const acts = {
    take,
    on: () => lay(sheet + 1),
    back: () => lay(sheet - 1),
    undo,
    look,
  };
  const keys = { " ": "take", ArrowRight: "on", ArrowLeft: "back", Backspace: "undo" };
  element.addEventListener("click", (event) => acts[event.target.closest("[data-stand-act]")?.dataset.standAct]?.());
  document.addEventListener("keydown", (event) => {
    const act = keys[event.key];
    if (!act || event.ctrlKey || event.altKey || event.metaKey || (event.key === " " && event.target.tagName === "BUTTON")) return;
    event.preventDefault();
    acts[act]();
  });
  lay(1);

  function url() {
    return `${element.dataset.pictures}/${sheet}/${presses}.png`;
  }

  function lay(number) {
    sheet = Math.min(sheets, Math.max(1, number));
    camera.src = url();
    tell();
  }

  function tell() {
    const pictures = taken.length === 1 ? "1 picture" : `${taken.length} pictures`;
    element.querySelector("[data-where]").textContent = `Sheet ${sheet} of ${sheets}; ${pictures} taken`;
    element.querySelector('[data-stand-act="look"]').disabled = taken.length < 2;
  }

  async function take() {
    if (busy) return;
    busy = true;
    const answer = await fetch(url()).catch(() => null);
    busy = false;
    if (!answer?.ok) {
      say("The picture could not be taken. Check the connection and press again.");
      return;
    }
    const picture = await answer.blob();
    presses += 1;
    taken.push(picture);
    const item = document.createElement("li");
    const image = document.createElement("img");
    image.src = URL.createObjectURL(picture);
    image.alt = `Picture ${taken.length}, of sheet ${sheet}`;
    item.append(image, Object.assign(document.createElement("span"), { textContent: taken.length }));
    list.append(item);
    item.scrollIntoView({ block: "nearest" });
    say("");
    lay(sheet);
  }

  function undo() {
    if (taken.pop()) list.lastElementChild.remove();
    tell();
  }

  async function look() {
    const form = new FormData();
    taken.forEach((picture, i) => form.append("files", picture, `picture_${String(i + 1).padStart(4, "0")}.png`));
    const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
    const answer = await fetch(element.dataset.handIn, { method: "POST", body: form, headers: { Accept: "application/json", "X-CSRFToken": token } }).catch(() => null);
    const told = answer && [201, 422].includes(answer.status) ? await answer.json() : null;
    if (told?.url) window.location.assign(told.url);
    else say(told?.message || "That did not work; the pictures are still here. Try again.");
  }

  function say(words) {
    const place = element.querySelector("[data-error]");
    place.textContent = words;
    place.hidden = !words;
  }
}
