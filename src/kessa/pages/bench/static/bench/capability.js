// Lets this device send this visit's acts after the sign-in has expired.
import { asPerson } from "./post.js";

const WEEK = 7 * 24 * 3600 * 1000;

// Resolves with what asking came to; a token that lasts another week is not asked for again.
export async function askForCapability(outbox, { visit, capability, person }, device) {
  const held = await outbox.token(visit);
  if (held && Date.parse(held.expires) - Date.now() > WEEK) return "ok";
  const { outcome, answer } = await asPerson(capability, person, { device });
  if (outcome === "ok") await outbox.keepToken(visit, answer);
  return outcome;
}
