// A tap on the photograph sets the mark; the fields say where it is, and move it as well.

/** @type {HTMLElement | null} */
const photo = document.querySelector("[data-mark]");
/** @type {HTMLInputElement | null} */
const across = document.querySelector("#id_across");
/** @type {HTMLInputElement | null} */
const down = document.querySelector("#id_down");

function draw() {
  const svg = photo.querySelector("svg");
  for (const circle of svg.querySelectorAll("circle")) {
    circle.setAttribute("cx", `${Number(across.value) || 0}%`);
    circle.setAttribute("cy", `${Number(down.value) || 0}%`);
  }
  svg.removeAttribute("hidden");
}

if (photo) {
  photo.addEventListener("click", (event) => {
    const box = photo.getBoundingClientRect();
    across.value = (((event.clientX - box.left) / box.width) * 100).toFixed(1);
    down.value = (((event.clientY - box.top) / box.height) * 100).toFixed(1);
    draw();
  });
  for (const field of [across, down]) field.addEventListener("input", draw);
}
