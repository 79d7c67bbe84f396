// One measurement: whether it stands, what of it is read. As kessa_core.runs.state.

// Done, and not rejected; its photograph may still be unread.
export const stands = (d) => d.closed && !d.rejected;

// Readings that were photographed and not made yet.
export const unread = (d) =>
  d.kind === "absent" ? [] : Object.keys(d.photos).filter((slot) => !(slot in d.places));
export const awaits = (d) => stands(d) && unread(d).length > 0;

export const kept = (d) => stands(d) && !awaits(d);

// Whether an act is of the step at hand, and that step of this kind.
export const here = (m, kind, event) => m.at(kind) && event.data.step === m.state.step;

export function closed(m, d) {
  d.closed = true;
  m.settle(d);
  return true;
}

// Readings of one determination that cannot belong together: an end before its start.
export function outOfOrder(stage, places) {
  const read = Object.keys(stage.slots)
    .filter((slot) => slot in places)
    .map((slot) => places[slot]);
  return stage.rising && read.some((n, i) => i > 0 && n < read[i - 1]);
}
