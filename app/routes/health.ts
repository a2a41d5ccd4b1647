import { database } from "../../server/pool.ts";

/** Whether the application and its database answer. */
export async function loader() {
  await database().query("select 1");
  return new Response("ok\n", { headers: { "Content-Type": "text/plain" } });
}
