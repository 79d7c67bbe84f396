// Appended to the bench page's script when tests collect the static files (tests/browser/hook.py).
main.kessa = {
  act(name, data) {
    act(name, data);
    return now().events.at(-1)?.id;
  },
  ids: () => runs.flatMap((run) => run.events.map((event) => event.id)),
  step: () => now().state.step,
  now: () => ({ sheet: now().sheet, state: now().state }),
  pull: () => sender.pull(),
  digest: () => runs.map((run) => digest(run.state)),
};
