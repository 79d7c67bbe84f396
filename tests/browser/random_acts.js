// Acts drawn by chance, mostly such as the run stands ready for; the chances come from the test.
// ends: whether the test may be stopped at last.
async ({ chances, acts, ends }) => {
  const { act, now } = document.getElementById("main").kessa;
  let at = 0;
  const chance = () => chances[at++ % chances.length];
  const pick = (list) => list[Math.floor(chance() * list.length)];
  const raw = (scale) => {
    if (scale.over && chance() < 0.08) return ">";
    const n = scale.low + Math.floor(chance() * chance() * (scale.high - scale.low + 1));
    if (scale.labels) return String(n);
    const digits = String(Math.abs(n) * scale.every).padStart(scale.decimals + 1, "0");
    const figure = scale.decimals
      ? `${digits.slice(0, -scale.decimals)}.${digits.slice(-scale.decimals)}`
      : digits;
    return (n < 0 ? "-" : "") + figure;
  };
  const mine = [];
  for (let i = 0; i < acts; i += 1) {
    const { sheet, state } = now();
    const stage = sheet.stages[state.at];
    const step = sheet.steps[state.step];
    const options = [
      ["note", { text: "x" }],
      ["again", {}],
      ["reject", { cause: "spilled" }],
      ["stage", {}],
      ["dilute", { by: 10 }],
    ];
    if (step?.kind === "tick") options.push(...Array(30).fill(["tick", { step: state.step }]));
    if (step?.kind === "wait") options.push(...Array(30).fill(["time", { step: state.step }]));
    if (step?.kind === "check")
      options.push(
        ...Array(30).fill(["answer", { step: state.step, answer: pick(step.answers).id }]),
      );
    if (step?.kind === "read")
      options.push(
        ...Array(30).fill(["read", { step: state.step, raw: raw(stage.slots[step.slot]) }]),
      );
    if (step?.kind === "count")
      options.push(...Array(24).fill(["drop", {}]), ...Array(6).fill(["end", {}]), ["beyond", {}]);
    if (state.spot === "reading")
      options.push(
        ...Array(12).fill(["next", {}]),
        ["doubt", {}],
        ["back-off", {}],
        ["check-drop", {}],
      );
    if (state.spot === "stage-end") options.push(...Array(20).fill(["stage", {}]));
    if (ends && i > acts - 10)
      options.push(["stop", { cause: "x" }], ["stop", { cause: "x", finish: "not-applicable" }]);
    if (mine.length && chance() < 0.06) act("undo", { event: mine.pop() });
    else {
      const [name, data] = pick(options);
      mine.push(act(name, data));
    }
  }
};
