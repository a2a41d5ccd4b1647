import { Form } from "react-router";
import type { AccountRow } from "../../../server/access/accounts.ts";
import { roleNames, roles } from "../../../server/access/roles.ts";
import type { DeletedPlan } from "../../../server/plans.ts";
import { AccountLinks } from "../../ui/account-links.tsx";
import { Button } from "../../ui/button.tsx";
import { ClockTime } from "../../ui/clock-time.tsx";
import { FormPick } from "../../ui/select.tsx";
import { Page, Part } from "./page.tsx";

type AccountItem = AccountRow & { readonly alike: readonly string[] };

interface AccountsViewProps {
  accounts: AccountItem[];
  plans: { id: string; name: string }[];
  deleted: DeletedPlan[];
  /** Whether there are accounts; without, everybody on this machine may do everything. */
  shared: boolean;
  /** The signed-in account; null if sign-in is off. */
  who: string | null;
  told: { error: string; link: string } | null;
}

/** Who may do what, in the workspace and in single plans; plans that can be brought back. */
export function AccountsView({ accounts, plans, deleted, shared, who, told }: AccountsViewProps) {
  return (
    <Page title="Accounts" links={<AccountLinks who={who} administers />}>
      {!shared && (
        <p className="text-ink-2">
          There are no accounts: the application serves this machine only, without sign-in. After the first
          account is added, every user must sign in.
        </p>
      )}
      {told?.error && (
        <p role="alert" className="mt-2 border-2 border-stop bg-panel p-2">
          {told.error}
        </p>
      )}
      {told?.link && (
        <p className="mt-2 border-2 border-iron bg-panel p-2">
          Send this link to the account's owner. It works once and expires in three days:{" "}
          <code className="addr break-all">{told.link}</code>
        </p>
      )}
      <ul className="mt-3">
        {accounts.map((account) => (
          <AccountLine key={account.id} account={account} plans={plans} />
        ))}
      </ul>
      <Part title="Add account">
        <Form method="post" aria-label="Add account" className="flex flex-wrap items-end gap-2">
          <input type="hidden" name="do" value="invite" />
          <span className="flex flex-col">
            <label htmlFor="account-name" className="text-[13px] text-ink-2">
              Name
            </label>
            <input id="account-name" name="name" required maxLength={60} className="field w-56" />
          </span>
          <span className="flex flex-col">
            <label htmlFor="account-role" className="text-[13px] text-ink-2">
              Role
            </label>
            <RoleChoice id="account-role" value={shared ? "edits" : "administers"} />
          </span>
          <Button type="submit" look="strong">
            Create link
          </Button>
        </Form>
      </Part>
      {deleted.length > 0 && (
        <Part title="Deleted plans">
          <ul>
            {deleted.map((plan) => (
              <li key={plan.id} className="flex items-center gap-3 border-rule border-t py-1">
                <span className="font-medium">{plan.name}</span>
                <span className="text-[13px] text-ink-2">
                  deleted by {plan.deletedBy}, <ClockTime at={plan.deletedAt} />
                </span>
                <Form method="post" className="ml-auto">
                  <input type="hidden" name="do" value="restore" />
                  <input type="hidden" name="plan" value={plan.id} />
                  <Button type="submit" aria-label={`Restore ${plan.name}`}>
                    Restore
                  </Button>
                </Form>
              </li>
            ))}
          </ul>
        </Part>
      )}
    </Page>
  );
}

function AccountLine({ account, plans }: { account: AccountItem; plans: AccountsViewProps["plans"] }) {
  const ways = [
    account.hasPassword ? "password" : "",
    account.passkeys > 0 ? `${account.passkeys} ${account.passkeys === 1 ? "passkey" : "passkeys"}` : "",
    account.byProvider ? "provider" : "",
  ].filter(Boolean);
  const own = Object.entries(account.plans);
  return (
    <li aria-label={account.name} className="border-rule border-t py-2">
      <div className="flex flex-wrap items-center gap-3">
        <span className={`font-semibold ${account.disabledAt ? "line-through" : ""}`}>{account.name}</span>
        {account.alike.length > 0 && (
          <span className="font-medium text-warn">name resembles {account.alike.join(", ")}</span>
        )}
        <span className="text-[13px] text-ink-2">
          {ways.length > 0 ? `signs in with ${ways.join(", ")}` : "has not signed in yet"}
          {account.seenAt && (
            <>
              , last seen <ClockTime at={account.seenAt} />
            </>
          )}
        </span>
        <Form method="post" className="ml-auto flex items-center gap-2">
          <input type="hidden" name="do" value="role" />
          <input type="hidden" name="account" value={account.id} />
          <RoleChoice id={`role-${account.id}`} label={`Role of ${account.name}`} value={account.role} />
          <Button type="submit">Save role</Button>
        </Form>
        <Doing account={account.id} doing="link" text="New sign-in link" />
        <Doing
          account={account.id}
          doing={account.disabledAt ? "enable" : "disable"}
          text={account.disabledAt ? "Enable" : "Disable"}
        />
      </div>
      <Form method="post" className="mt-1 flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        <input type="hidden" name="do" value="plan role" />
        <input type="hidden" name="account" value={account.id} />
        {own.map(([plan, role]) => (
          <span key={plan}>
            {plans.find(({ id }) => id === plan)?.name ?? `plan ${plan}`}: {roleNames[role]}
          </span>
        ))}
        <label htmlFor={`plan-${account.id}`}>Role in the plan</label>
        <FormPick
          id={`plan-${account.id}`}
          name="plan"
          defaultValue={plans[0]?.id ?? ""}
          choices={plans.map(({ id, name }) => ({ value: id, label: name }))}
        />
        <FormPick
          aria-label={`Role of ${account.name} in the plan`}
          name="role"
          defaultValue=""
          choices={[{ value: "", label: "same as workspace role" }, ...roleChoices]}
        />
        <button type="submit" className="button py-0">
          Save plan role
        </button>
      </Form>
    </li>
  );
}

function Doing({ account, doing, text }: { account: string; doing: string; text: string }) {
  return (
    <Form method="post">
      <input type="hidden" name="do" value={doing} />
      <input type="hidden" name="account" value={account} />
      <Button type="submit">{text}</Button>
    </Form>
  );
}

const roleChoices = roles.map((role) => ({ value: role, label: roleNames[role] }));

function RoleChoice({ id, label, value }: { id: string; label?: string; value: string }) {
  return <FormPick id={id} name="role" aria-label={label} defaultValue={value} choices={roleChoices} />;
}
