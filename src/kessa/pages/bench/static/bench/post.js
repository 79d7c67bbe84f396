// One request to an endpoint for acts, and what it came to. Never redirects.

// The token against forged requests; over TLS its cookie is bound to this host by its name.
export const csrfToken = () =>
  document.cookie.match(/(?:^|; )(?:__Host-)?csrftoken=([^;]+)/)?.[1] ?? "";

// How long an answer is waited for; a sender waits longer each time that it was too short.
export const FIRST_PATIENCE_MS = 15_000;
export const MOST_PATIENCE_MS = 60_000;
const PATIENCE_FOR_A_PICTURE_MS = 120_000;

// -> { outcome: "ok" | "offline" | "slow" | "signin" | "other" | "full" | "big" | "refused" | "trouble",
// answer, wait }
async function post(url, body, headers, more = {}, patience = FIRST_PATIENCE_MS) {
  const isPicture = body instanceof Blob;
  let response, answer;
  try {
    response = await fetch(url, {
      method: "POST",
      redirect: "error",
      headers: { "Content-Type": isPicture ? body.type : "application/json", ...headers },
      body: isPicture ? body : JSON.stringify(body),
      signal: AbortSignal.timeout(isPicture ? PATIENCE_FOR_A_PICTURE_MS : patience),
      ...more,
    });
    answer = await response.json();
  } catch (error) {
    const late = error.name === "TimeoutError" && !isPicture;
    return { outcome: late ? "slow" : "offline" };
  }
  const by = {
    401: "signin",
    403: "signin",
    409: "other",
    413: "big",
    422: "refused",
    429: "full",
    503: "trouble",
  };
  const outcome = response.ok ? "ok" : (by[response.status] ?? "offline");
  return { outcome, answer, wait: Number(response.headers.get("Retry-After")) * 1000 };
}

// As the person who is signed in.
export const asPerson = (url, person, body, patience) =>
  post(url, body, { "X-CSRFToken": csrfToken(), "X-Kessa-Person": person }, {}, patience);

// With a device's capability; whoever is signed in does not matter.
export const asDevice = (token, body, patience) =>
  post(
    "/append/",
    body,
    { Authorization: `Kessa-Append ${token}` },
    { credentials: "omit" },
    patience,
  );

// A photograph, as the person or with a capability.
export const pictureAsPerson = (url, person, { key, blob }) =>
  post(url, blob, {
    "X-CSRFToken": csrfToken(),
    "X-Kessa-Person": person,
    "X-Kessa-Photograph": key,
  });

export const pictureAsDevice = (token, { key, blob }) =>
  post(
    "/append/photograph/",
    blob,
    { Authorization: `Kessa-Append ${token}`, "X-Kessa-Photograph": key },
    { credentials: "omit" },
  );
