/** Posts to a route of this server and returns its answer; throws the server's message if refused. */
export async function postJson(path: string, body: unknown): Promise<Record<string, unknown>> {
  const response = await fetch(`${path}`, {
    method: "POST",
    headers: { "Content-Type": "application/json", Accept: "application/json" },
    body: JSON.stringify(body),
  });
  const answer = await response.json().catch(() => ({}));
  if (!response.ok)
    throw new Error(String(answer.error ?? `the server refused the request (${response.status})`));
  return answer;
}
