import { Form, Link } from "react-router";

interface AccountLinksProps {
  /** The signed-in account; null if sign-in is off. */
  who: string | null;
  administers: boolean;
}

/** To one's own account, and to what administrators see. */
export function AccountLinks({ who, administers }: AccountLinksProps) {
  return (
    <nav aria-label="Account" className="flex flex-wrap items-center gap-3 text-[13px]">
      <Link to="/account" className="name-link">
        {who ?? "API tokens"}
      </Link>
      {administers && (
        <>
          <Link to="/accounts" className="name-link">
            Accounts
          </Link>
          <Link to="/audit-log" className="name-link">
            Audit log
          </Link>
        </>
      )}
      {who && (
        <Form method="post" action="/sign-out">
          <button type="submit" className="name-link text-ink-2">
            Sign out
          </button>
        </Form>
      )}
    </nav>
  );
}
