/** Signs in as Noor; answers the headers that every later request needs. */
export async function signIn(base) {
  const answer = await fetch(`${base}/api/session`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ email: "noor@quillonstreet.example", password: "strike-a-light-5080" }),
  });
  const cookies = answer.headers.getSetCookie().map((c) => c.split(";")[0]);
  const token = decodeURIComponent(cookies.find((c) => c.startsWith("XSRF-TOKEN=")).slice("XSRF-TOKEN=".length));
  return { cookie: cookies.join("; "), "X-XSRF-TOKEN": token };
}
