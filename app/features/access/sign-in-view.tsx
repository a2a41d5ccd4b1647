import { startAuthentication } from "@simplewebauthn/browser";
import { useState } from "react";
import { Form, useNavigation } from "react-router";
import { Button } from "../../ui/button.tsx";
import { postJson } from "./post-json.ts";
import { Sheet } from "./sheet.tsx";

interface SignInViewProps {
  to: string;
  /** The name of the sign-in provider; null without one. */
  provider: string | null;
  /** Whether the host has a name, without which there are no passkeys. */
  passkeys: boolean;
  told: { error: string; name: string } | null;
}

/** Where people say who they are: by passkey, by name and password, or by a provider. */
export function SignInView({ to, provider, passkeys, told }: SignInViewProps) {
  const busy = useNavigation().state !== "idle";
  const [error, setError] = useState("");
  const byPasskey = async () => {
    setError("");
    try {
      const { options } = await postJson("/sign-in/passkey", { do: "ask" });
      const response = await startAuthentication({ optionsJSON: options as never });
      await postJson("/sign-in/passkey", { do: "answer", response });
      window.location.assign(to);
    } catch (failure) {
      setError(failure instanceof Error ? failure.message : String(failure));
    }
  };
  const wrong = error || told?.error;
  return (
    <Sheet title="Sign in">
      {wrong && (
        <p role="alert" className="mt-2 text-stop">
          {wrong}
        </p>
      )}
      {passkeys ? (
        <Button look="strong" className="mt-3 w-full justify-center" onClick={byPasskey}>
          Sign in with a passkey
        </Button>
      ) : (
        <p className="mt-2 text-[13px] text-ink-2">
          Passkeys need a host name. At this address, sign in with your password.
        </p>
      )}
      <Form method="post" className="mt-4 flex flex-col gap-2">
        <input type="hidden" name="to" value={to} />
        <label htmlFor="sign-in-name" className="text-[13px] text-ink-2">
          Name
        </label>
        <input
          id="sign-in-name"
          name="name"
          autoComplete="username webauthn"
          required
          maxLength={60}
          defaultValue={told?.name}
          className="field"
        />
        <label htmlFor="sign-in-password" className="text-[13px] text-ink-2">
          Password
        </label>
        <input
          id="sign-in-password"
          name="password"
          type="password"
          autoComplete="current-password"
          required
          maxLength={200}
          className="field"
        />
        <Button type="submit" className="justify-center" disabled={busy}>
          Sign in
        </Button>
      </Form>
      {provider && (
        <p className="mt-4 border-rule border-t pt-3">
          <a className="button" href={`/sign-in/provider?to=${encodeURIComponent(to)}`}>
            Sign in with {provider}
          </a>
        </p>
      )}
    </Sheet>
  );
}
