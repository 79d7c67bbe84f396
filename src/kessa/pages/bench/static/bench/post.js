// One request to an endpoint for acts, and what it came to. Never redirects.

// The token against forged requests; over TLS its cookie is bound to this host by its name.
export const csrfToken = () =>
  document.cookie.match(/(?:^|; )(?:__Host-)?csrftoken=([^;]+)/)?.[1] ?? "";

// -> { outcome: "ok" | "offline" | "signin" | "other" | "full" | "big" | "trouble", answer, wait }
async function post(url, body, headers, more = {}) {
  let response, answer;
  try {
    response = await fetch(url, {
      method: "POST",
      redirect: "error",
      headers: { "Content-Type": "application/json", ...headers },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(15000),
      ...more,
    });
    answer = await response.json();
  } catch {
    return { outcome: "offline" };
  }
  const by = {
    401: "signin",
    403: "signin",
    409: "other",
    413: "big",
    429: "full",
    503: "trouble",
  };
  const outcome = response.ok ? "ok" : (by[response.status] ?? "offline");
  return { outcome, answer, wait: Number(response.headers.get("Retry-After")) * 1000 };
}

// As the person who is signed in.
export const asPerson = (url, person, body) =>
  post(url, body, { "X-CSRFToken": csrfToken(), "X-Kessa-Person": person });

// With a device's capability; whoever is signed in does not matter.
export const asDevice = (token, body) =>
  post("/append/", body, { Authorization: `Kessa-Append ${token}` }, { credentials: "omit" });
