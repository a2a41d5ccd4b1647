import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import Provider from "oidc-provider";

/** A sign-in provider for tests: whoever signs in as "leads-…" is in the group leads, and so on. */
export async function provider(callback: string): Promise<{ issuer: string; server: Server }> {
  // Its address has to be known before it is made.
  const { createServer } = await import("node:http");
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const made = new Provider(issuer, {
    clients: [
      {
        client_id: "iron-fork",
        client_secret: "harbour",
        redirect_uris: [callback],
        grant_types: ["authorization_code"],
        response_types: ["code"],
      },
    ],
    claims: { openid: ["sub"], profile: ["preferred_username"], groups: ["groups"] },
    scopes: ["openid", "profile", "email", "groups"],
    conformIdTokenClaims: false,
    features: { devInteractions: { enabled: true } },
    pkce: { required: () => true },
    cookies: { keys: ["a key for tests"] },
    async findAccount(_ctx, sub) {
      return {
        accountId: sub,
        claims: () => ({ sub, preferred_username: sub, groups: [sub.split("-")[0]] }),
      };
    },
  });
  server.on("request", made.callback());
  return { issuer, server };
}
