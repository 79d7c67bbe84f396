// Takes the test on the page from its first act to its result as a keyboard would: ticks each step,
// waits each clock out, reads each scale a little above its start. Returns where it stands.
async () => {
  const $ = (id) => document.getElementById(id);
  const seen = (element) => element.checkVisibility();
  const press = (key, on = document.body) => {
    const code = key === " " ? "Space" : key;
    on.dispatchEvent(new KeyboardEvent("keydown", { key, code, bubbles: true, cancelable: true }));
  };
  const fill = (element, value) => {
    element.value = value;
    element.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const before = () => /Blank|Reference|Standard/.test($("eyebrow").textContent);
  const wait = () => {
    if (seen($("clock-seconds"))) {
      fill($("clock-seconds"), "60");
      $("clock-typed").requestSubmit();
    }
    const seconds = $("clock-time")
      .textContent.split(":")
      .reduce((all, part) => all * 60 + Number(part), 0);
    window.ahead = (window.ahead ?? 0) + seconds * 1000;
    press("n");
  };
  const count = () => {
    for (let drop = before() ? 1 : 4; drop; drop -= 1) press(" ");
    press("e");
  };
  const read = () => {
    const places = $("reading-place");
    const dial = [...document.querySelectorAll("[role=slider]")].find(seen);
    if (seen(places)) {
      const at = before() ? 1 : Math.floor((places.options.length + 1) / 2);
      fill(places, places.options[at].value);
    } else if (dial) {
      const slot = document.querySelector(".instrument:not([hidden])").dataset.slot;
      press("Home", dial);
      if (slot !== "start" && !before()) for (let i = 0; i < 4; i += 1) press("PageUp", dial);
    } else fill($("reading-figure"), "2");
    $("reading").requestSubmit();
    if (seen($("reading-asked"))) $("reading-yes").click();
  };
  const asked = () => document.querySelector('[data-act="accept"][data-how="anyway"]').click();
  const acts = { asked, wait, count, read, check: () => press("1") };
  for (let i = 0; i < 300; i += 1) {
    const spot = $("main").dataset.now;
    if (["finished", "beyond"].includes(spot)) return spot;
    (acts[spot] ?? (() => press("n")))();
  }
  return `${$("main").dataset.now}: ${$("title").textContent} ${$("reading-wrong").textContent}`;
};
