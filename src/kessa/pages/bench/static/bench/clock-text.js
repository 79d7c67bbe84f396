// Seconds as a clock shows them: 1:05, and 1:00:05 after an hour.

export function clockText(total) {
  const whole = Math.max(0, Math.ceil(total));
  const two = (n) => String(n).padStart(2, "0");
  const hours = Math.trunc(whole / 3600);
  const minutes = Math.trunc((whole % 3600) / 60);
  return hours ? `${hours}:${two(minutes)}:${two(whole % 60)}` : `${minutes}:${two(whole % 60)}`;
}
