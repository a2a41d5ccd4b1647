import { startRegistration } from "@simplewebauthn/browser";
import { useState } from "react";
import { Form, useRevalidator } from "react-router";
import type { Passkey } from "../../../server/access/passkeys.ts";
import type { Role } from "../../../server/access/roles.ts";
import type { SignIn } from "../../../server/access/sign-ins.ts";
import { AccountLinks } from "../../ui/account-links.tsx";
import { Button } from "../../ui/button.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { NewPassword } from "./new-password.tsx";
import { FormResult, Page, Part } from "./page.tsx";
import { postJson } from "./post-json.ts";
import { roleWords } from "./role-words.ts";
import { type TokenShown, Tokens } from "./tokens.tsx";

interface AccountViewProps {
  account: { name: string; role: Role; hasPassword: boolean } | null;
  administers: boolean;
  namedHost: boolean;
  passkeys: Passkey[];
  signIns: (SignIn & { here: boolean })[];
  tokens: TokenShown[];
  plans: { id: string; name: string }[];
  mostDays: number;
  told: { form: string; error: string; said: string; token?: string } | null;
}

/** One's own account. */
export function AccountView(props: AccountViewProps) {
  const { account, administers, tokens, plans, mostDays, told } = props;
  return (
    <Page
      title={account ? account.name : "API tokens"}
      links={<AccountLinks who={account?.name ?? null} administers={administers || account === null} />}
    >
      {account ? (
        <p className="text-ink-2">You {roleWords[account.role]}.</p>
      ) : (
        <p className="text-ink-2">
          There are no accounts: the application serves this machine only. You can still create API tokens for
          programs.
        </p>
      )}
      {account && <Passkeys {...props} />}
      {account && <Password hasPassword={account.hasPassword} told={told} />}
      {account && <SignIns signIns={props.signIns} told={told} />}
      <Tokens tokens={tokens} plans={plans} mostDays={mostDays} told={told} />
    </Page>
  );
}

function Passkeys({ passkeys, namedHost, told }: Pick<AccountViewProps, "passkeys" | "namedHost" | "told">) {
  const { revalidate } = useRevalidator();
  const [error, setError] = useState("");
  const [name, setName] = useState("");
  const add = async (event: React.FormEvent) => {
    event.preventDefault();
    setError("");
    try {
      const { options } = await postJson("/account/passkey", { do: "ask" });
      const response = await startRegistration({ optionsJSON: options as never });
      await postJson("/account/passkey", { do: "answer", name, response });
      setName("");
      await revalidate();
    } catch (failure) {
      setError(failure instanceof Error ? failure.message : String(failure));
    }
  };
  return (
    <Part title="Passkeys">
      <ul>
        {passkeys.map((passkey) => (
          <li key={passkey.id} className="flex items-center gap-3 border-rule border-t py-1">
            <span className="font-medium">{passkey.name}</span>
            <span className="text-[13px] text-ink-2">
              added <ClockTime at={passkey.madeAt} />
              {passkey.usedAt && (
                <>
                  , used <ClockTime at={passkey.usedAt} />
                </>
              )}
            </span>
            <Form method="post" className="ml-auto">
              <input type="hidden" name="do" value="drop passkey" />
              <input type="hidden" name="passkey" value={passkey.id} />
              <Button type="submit" aria-label={`Remove the passkey ${passkey.name}`}>
                Remove
              </Button>
            </Form>
          </li>
        ))}
      </ul>
      {namedHost ? (
        <form onSubmit={add} className="mt-2 flex items-center gap-2">
          <input
            aria-label="Name of the passkey"
            placeholder="such as laptop"
            value={name}
            onChange={(event) => setName(event.target.value)}
            required
            maxLength={60}
            className="field w-64"
          />
          <Button type="submit">Add passkey</Button>
        </form>
      ) : (
        <p className="text-[13px] text-ink-2">Passkeys need a host name, such as localhost.</p>
      )}
      {error && (
        <p role="alert" className="text-stop">
          {error}
        </p>
      )}
      <FormResult told={told} form="drop passkey" />
    </Part>
  );
}

function Password({ hasPassword, told }: { hasPassword: boolean } & Pick<AccountViewProps, "told">) {
  return (
    <Part title="Password">
      <Form method="post" className="flex w-80 flex-col gap-2">
        <input type="hidden" name="do" value="password" />
        {hasPassword && (
          <>
            <label htmlFor="old-password" className="text-[13px] text-ink-2">
              Current password
            </label>
            <input
              id="old-password"
              name="old"
              type="password"
              autoComplete="current-password"
              required
              maxLength={200}
              className="field"
            />
          </>
        )}
        <NewPassword />
        <span>
          <Button type="submit">Change password</Button>
        </span>
      </Form>
      <FormResult told={told} form="password" />
    </Part>
  );
}

function SignIns({ signIns, told }: Pick<AccountViewProps, "signIns" | "told">) {
  return (
    <Part title="Active sign-ins">
      <ul>
        {signIns.map((one) => (
          <li key={one.id} className="flex items-center gap-3 border-rule border-t py-1">
            <span className="min-w-0 flex-1 truncate">
              {one.here && <strong>This browser. </strong>}
              {one.agent || "a program"}
            </span>
            <span className="text-[13px] text-ink-2">
              {one.address}, by {one.how}, last seen <ClockTime at={one.seenAt} />
            </span>
            {!one.here && (
              <Form method="post">
                <input type="hidden" name="do" value="end sign-in" />
                <input type="hidden" name="sign-in" value={one.id} />
                <Button type="submit">Sign out</Button>
              </Form>
            )}
          </li>
        ))}
      </ul>
      {signIns.length > 1 && (
        <Form method="post" className="mt-2">
          <input type="hidden" name="do" value="end others" />
          <Button type="submit">Sign out all other browsers</Button>
        </Form>
      )}
      <FormResult told={told} form="end sign-in" />
      <FormResult told={told} form="end others" />
    </Part>
  );
}
