/** A password, twice. */
export function NewPassword() {
  return (
    <>
      <label htmlFor="new-password" className="text-[13px] text-ink-2">
        New password, 12 characters at least
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
        The same again
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
