// This device: the name by which its acts are known, and its wall clock.

// A device is one person's.
export function deviceOf(person) {
  const own = `kessaDevice-${person}`;
  localStorage[own] ??= crypto.randomUUID();
  return localStorage[own];
}

// Wall time with the device's own offset to UTC.
export function localTime(date) {
  const minutes = -date.getTimezoneOffset();
  const sign = minutes < 0 ? "-" : "+";
  const two = (n) => String(Math.abs(n)).padStart(2, "0");
  const shifted = new Date(date.getTime() + minutes * 60000).toISOString().slice(0, -1);
  return `${shifted}${sign}${two(Math.trunc(minutes / 60))}:${two(minutes % 60)}`;
}
