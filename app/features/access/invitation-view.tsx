import { Form, useNavigation } from "react-router";
import { Button } from "../../ui/button.tsx";
import { NewPassword } from "./new-password.tsx";
import { Sheet } from "./sheet.tsx";

/** Whoever has the link gives the account a password, and is signed in. */
export function InvitationView({ name, error }: { name: string; error: string }) {
  const busy = useNavigation().state !== "idle";
  return (
    <Sheet title={`Welcome, ${name}`}>
      <p className="text-ink-2">Choose a password. You can add a passkey later.</p>
      <Form method="post" className="mt-3 flex flex-col gap-2">
        <input type="hidden" name="username" autoComplete="username" value={name} readOnly />
        <NewPassword />
        {error && (
          <p role="alert" className="text-stop">
            {error}
          </p>
        )}
        <Button type="submit" look="strong" className="justify-center" disabled={busy}>
          Continue
        </Button>
      </Form>
    </Sheet>
  );
}
