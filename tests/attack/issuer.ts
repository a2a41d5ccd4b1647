import { createHash, createSign, generateKeyPairSync, randomUUID } from "node:crypto";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";

/** A sign-in provider (OpenID Connect) that signs its tokens, or not, as an attack wants it. */
export class Issuer {
  private readonly keys = generateKeyPairSync("rsa", { modulusLength: 2048 });
  private readonly other = generateKeyPairSync("rsa", { modulusLength: 2048 });
  private server: Server | null = null;
  url = "";
  nonce = "";
  /** Whether the next ID token is signed by a key that is not the provider's. */
  forged = false;

  async start() {
    this.server = createServer((req, res) => {
      const answer = (value: unknown) =>
        res.setHeader("Content-Type", "application/json").end(JSON.stringify(value));
      if (req.url?.startsWith("/.well-known/"))
        return answer({
          issuer: this.url,
          authorization_endpoint: `${this.url}/authorize`,
          token_endpoint: `${this.url}/token`,
          jwks_uri: `${this.url}/keys`,
          response_types_supported: ["code"],
          subject_types_supported: ["public"],
          id_token_signing_alg_values_supported: ["RS256"],
          code_challenge_methods_supported: ["S256"],
        });
      if (req.url === "/keys")
        return answer({
          keys: [{ ...this.keys.publicKey.export({ format: "jwk" }), kid: "1", alg: "RS256", use: "sig" }],
        });
      if (req.url === "/token")
        return answer({ access_token: "a", token_type: "Bearer", expires_in: 60, id_token: this.token() });
      res.writeHead(404).end();
    });
    await new Promise<void>((done) => this.server?.listen(0, "127.0.0.1", done));
    this.url = `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  private token(): string {
    const part = (value: unknown) => Buffer.from(JSON.stringify(value)).toString("base64url");
    const now = Math.floor(Date.now() / 1000);
    const claims = {
      iss: this.url,
      sub: createHash("sha256").update("sub").digest("hex"),
      aud: "attack",
      exp: now + 60,
      iat: now,
      nonce: this.nonce,
      preferred_username: `provided-${randomUUID().slice(0, 6)}`,
    };
    const text = `${part({ alg: "RS256", kid: "1" })}.${part(claims)}`;
    const key = (this.forged ? this.other : this.keys).privateKey;
    return `${text}.${createSign("RSA-SHA256").update(text).sign(key).toString("base64url")}`;
  }

  stop() {
    this.server?.close();
  }
}
