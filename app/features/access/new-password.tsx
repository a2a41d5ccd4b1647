/** A password, twice. */
export function NewPassword() {
  return (
    <>
      <label htmlFor="new-password" className="text-[13px] text-ink-2">
        New password, at least 12 characters
      </label>
      <input
        id="new-password"
        name="password"
        type="password"
        autoComplete="new-password"
        required
        minLength={12}
        maxLength={200}
        className="field"
      />
      <label htmlFor="new-password-again" className="text-[13px] text-ink-2">
        Repeat new password
      </label>
      <input
        id="new-password-again"
        name="again"
        type="password"
        autoComplete="new-password"
        required
        maxLength={200}
        className="field"
      />
    </>
  );
}
