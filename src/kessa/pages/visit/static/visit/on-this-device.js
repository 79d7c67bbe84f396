// The visits that are kept on this device, by person and programme.

const KEY = "kessa-along";
const FORGOTTEN_MS = 30 * 24 * 3600 * 1000;

export function visitsHere() {
  try {
    const known = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return known.filter(({ at }) => at > Date.now() - FORGOTTEN_MS);
  } catch {
    return [];
  }
}

export function noteVisit({ visit, programme, person, name }, { bytes, pages, at }) {
  const address = location.pathname;
  const others = visitsHere().filter((one) => one.address !== address);
  const noted = [{ visit, programme, person, name, address, bytes, pages, at }, ...others];
  localStorage.setItem(KEY, JSON.stringify(noted.slice(0, 20)));
}
