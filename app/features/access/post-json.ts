/** Posts to a route of this server and gives what it says; throws with its sentence where it refuses. */
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
