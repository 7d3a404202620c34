// The strip of a clip's drawings: dragging one, or moving it by key, changes the order in which they are played.

const strip = document.querySelector("[data-strip]");

if (strip) new Strip(strip);

function Strip(element) {
  const list = element.querySelector("ol");
  const form = element.querySelector("[data-order]");
  const asItWas = [...list.children];
  let held = null;

  list.addEventListener("dragstart", (event) => {
    held = event.target.closest("li");
    held.classList.add("held");
    event.dataTransfer.effectAllowed = "move";
  });
  list.addEventListener("dragover", (event) => {
    const over = event.target.closest("li");
    if (!held || !over) return;
    event.preventDefault();
    clear();
    over.classList.add("over");
  });
  list.addEventListener("drop", (event) => {
    const over = event.target.closest("li");
    if (!held || !over) return;
    event.preventDefault();
    list.insertBefore(held, over);
    changed();
  });
  list.addEventListener("dragend", () => {
    held?.classList.remove("held");
    held = null;
    clear();
  });
  list.addEventListener("keydown", (event) => {
    const item = event.target.closest("li");
    if (!item) return;
    if (event.key === "Enter") item.click();
    if (!event.altKey || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
    event.preventDefault();
    const other = event.key === "ArrowLeft" ? item.previousElementSibling : item.nextElementSibling;
    if (!other) return;
    if (event.key === "ArrowLeft") list.insertBefore(item, other);
    else list.insertBefore(other, item);
    item.focus();
    changed();
  });
  form.querySelector("[data-back]").addEventListener("click", () => {
    list.replaceChildren(...asItWas);
    changed();
  });

  function clear() {
    list.querySelectorAll(".over").forEach((item) => item.classList.remove("over"));
  }

  function changed() {
    const now = [...list.children];
    form.querySelector("[name=order]").value = now.map((item) => item.dataset.pictures).join(",");
    form.hidden = now.every((item, i) => item === asItWas[i]);
  }
}
