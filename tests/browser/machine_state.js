// Everything that the page's machine holds after each history, as JSON, as tests/builders/machine_state.py
// makes it of the core's. The page has imported the bench's modules as window.bench.
(given) => {
  const { sheets, histories } = JSON.parse(given);
  const {
    currentOf,
    orderOf,
    fold,
    halves,
    kept,
    lastStanding,
    secondsOf,
    begun,
    final,
    asksOf,
    digest,
  } = window.bench;
  const ms = (text) => Date.parse(text);
  const determination = (sheet, d) => ({
    id: d.id,
    stage: d.stage,
    role: [d.role, d.attempt],
    diluted: d.diluted,
    count: [d.count, d.kind, d.checks],
    is: [d.ended, d.closed],
    rejected: d.rejected,
    holder: d.holder,
    drops: d.times.map(ms),
    read: Object.entries(d.places)
      .filter(([slot]) => slot in d.raw)
      .map(([slot, n]) => [slot, n, d.raw[slot]]),
    over: Object.entries(d.places).filter(([slot]) => !(slot in d.raw)),
    corrections: d.was.map((was) => was.why),
    photos: [d.photos, d.again],
    "half steps": kept(d) && d.kind !== "absent" ? halves(sheet.stages[d.stage], d) : null,
  });
  const whole = ({ method, events }) => {
    const sheet = sheets[method];
    const state = fold(sheet, events);
    const computed = ["computed", "typed"];
    const waits = Object.keys(sheet.steps).filter((id) =>
      computed.includes(sheet.steps[id].wait?.rule),
    );
    return {
      digest: digest(state),
      place: [state.spot, state.step],
      at: state.at,
      finish: [state.finish, state.cause, state.untested],
      accepted: state.accepted,
      reader: state.reader,
      unfit: state.ignored,
      moments: Object.fromEntries(
        Object.entries(state.moments).map(([step, at]) => [step, ms(at)]),
      ),
      last: state.last ? ms(state.last.at) : null,
      begun: begun(state),
      current: currentOf(state)?.id ?? "",
      steps: orderOf({ sheet, state }),
      stages: state.stages.map((held) => [
        held.id,
        held.finish,
        held.cause,
        held.dilution,
        held.base,
      ]),
      determinations: state.dets.map((d) => determination(sheet, d)),
      waits: Object.fromEntries(waits.map((id) => [id, secondsOf(sheet, state, id)])),
      preparing: [state.preparing, state.stages.map((held) => held.prepared)],
      figures: Object.fromEntries(
        state.stages
          .map((held, at) => [held.id, final(sheet, state, at)?.f])
          .filter(([, figure]) => figure !== undefined),
      ),
      asks: asksOf({ sheet, state }).map((one) => one.id),
      "takes back": lastStanding(events)?.id ?? "",
    };
  };
  const found = histories.map((history) => {
    try {
      return whole(history);
    } catch (error) {
      return { error: String(error) };
    }
  });
  return JSON.stringify(found);
};
