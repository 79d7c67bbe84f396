// One request to an endpoint for acts, and what it came to. Never redirects.

export const cookie = (name) => document.cookie.match(new RegExp(`(?:^|; )${name}=([^;]+)`))?.[1] ?? "";

// -> { outcome: "ok" | "offline" | "signin" | "other" | "full" | "big", answer, wait }
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
  const by = { 401: "signin", 403: "signin", 409: "other", 413: "big", 429: "full" };
  const outcome = response.ok ? "ok" : (by[response.status] ?? "offline");
  return { outcome, answer, wait: Number(response.headers.get("Retry-After")) * 1000 };
}

// As the person who is signed in.
export const asPerson = (url, person, body) =>
  post(url, body, { "X-CSRFToken": cookie("csrftoken"), "X-Kessa-Person": person });

// With a device's capability; whoever is signed in does not matter.
export const asDevice = (token, body) =>
  post("/append/", body, { Authorization: `Kessa-Append ${token}` }, { credentials: "omit" });
