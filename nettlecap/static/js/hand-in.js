// Handing in: picks and drops, how far the upload is, what became of it, and what was wrong in words.

const ASKED_EVERY_MS = 500;
const form = document.querySelector("[data-hand-in]");

if (form) new HandIn(form);

function HandIn(element) {
  const input = element.querySelector('input[type="file"]');
  const picked = element.querySelector("[data-picked]");
  const drop = element.querySelector(".drop");
  input.addEventListener("change", () => { picked.textContent = describe(input.files); });
  ["dragover", "dragenter"].forEach((kind) => drop.addEventListener(kind, (event) => {
    event.preventDefault();
    drop.classList.add("over");
  }));
  ["dragleave", "drop"].forEach((kind) => drop.addEventListener(kind, () => drop.classList.remove("over")));
  drop.addEventListener("drop", (event) => {
    event.preventDefault();
    input.files = event.dataTransfer.files;
    picked.textContent = describe(input.files);
  });
  element.addEventListener("submit", (event) => {
    event.preventDefault();
    send(element, input, event.submitter?.getAttribute("formaction") || element.action);
  });
}

function describe(files) {
  if (files.length === 0) return "";
  const bytes = [...files].reduce((sum, file) => sum + file.size, 0);
  const size = bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.ceil(bytes / 1e3)} KB`;
  return files.length === 1 ? `${files[0].name}, ${size}` : `${files.length} pictures, ${size}`;
}

function send(element, input, url) {
  const progress = element.querySelector("[data-progress]");
  const buttons = [...element.querySelectorAll("[data-send]")];
  const request = new XMLHttpRequest();
  say(element, "");
  if (input.files.length === 0) {
    say(element, "Pick a clip first: one file, or all the pictures together.");
    return;
  }
  const bytes = [...input.files].reduce((sum, file) => sum + file.size, 0);
  const most = Number(element.dataset.mostBytes);
  if (bytes > most) {
    say(element, `The files have ${Math.round(bytes / 1e6)} MB together; at most ${Math.round(most / 1e6)} MB are taken. Export smaller pictures. Nothing was sent.`);
    return;
  }
  request.open("POST", url);
  request.setRequestHeader("Accept", "application/json");
  request.upload.addEventListener("progress", (event) => {
    progress.value = event.lengthComputable ? (100 * event.loaded) / event.total : 0;
    if (event.loaded === event.total) element.querySelector("[data-picked]").textContent = "Sent; waiting for the receipt …";
  });
  request.addEventListener("load", () => answered(element, request, buttons, progress));
  request.addEventListener("error", () => {
    say(element, "The connection broke off; nothing was handed in. Try again.");
    free(buttons, progress);
  });
  buttons.forEach((button) => { button.disabled = true; });
  progress.hidden = false;
  request.send(new FormData(element));
}

function answered(element, request, buttons, progress) {
  if (request.status === 201) {
    const { url, state } = JSON.parse(request.responseText);
    progress.removeAttribute("value");
    follow(element, url, state, buttons, progress);
    return;
  }
  refused(element, buttons, progress, messageOf(request));
}

/** The clip is kept now: wait here for what becomes of it, and say what is wrong where it can be mended. */
async function follow(element, url, state, buttons, progress) {
  const place = element.querySelector("[data-picked]");
  place.replaceChildren("Your clip is here, and is being read. You may leave this page: it is kept. ", link(url, "Follow it there"));
  for (;;) {
    const answer = await fetch(state, { headers: { Accept: "application/json" } }).catch(() => null);
    const told = answer?.ok ? await answer.json() : { unread: true };
    if (told.url) {
      window.location.assign(told.url);
      return;
    }
    if (!told.unread) {
      refused(element, buttons, progress, told.message);
      return;
    }
    await new Promise((done) => { setTimeout(done, ASKED_EVERY_MS); });
  }
}

function link(url, words) {
  const made = document.createElement("a");
  made.href = url;
  made.textContent = words;
  return made;
}

function refused(element, buttons, progress, words) {
  free(buttons, progress);
  element.querySelector("[data-picked]").textContent = describe(element.querySelector('input[type="file"]').files);
  say(element, words);
}

function messageOf(request) {
  try {
    return JSON.parse(request.responseText).message;
  } catch {
    return "That did not work, and nothing was handed in. Load the page again and retry.";
  }
}

function free(buttons, progress) {
  buttons.forEach((button) => { button.disabled = false; });
  progress.hidden = true;
}

function say(element, words) {
  const place = element.querySelector("[data-error]");
  place.textContent = words;
  place.hidden = !words;
}
