import { Link } from "react-router";

/** A page outside any plan. */
export function Page({
  title,
  links,
  children,
}: {
  title: string;
  links?: React.ReactNode;
  children: React.ReactNode;
}) {
  return (
    <main className="mx-auto max-w-5xl p-6">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <Link to="/plans" className="name-link">
          All plans
        </Link>
        {links}
      </div>
      <h1 className="mt-2 font-semibold font-sign text-[26px]">{title}</h1>
      {children}
    </main>
  );
}

export function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="mt-5">
      <h2 className="font-semibold font-sign text-[20px]">{title}</h2>
      {children}
    </section>
  );
}

/** The result of a form: a confirmation or an error. */
export function FormResult({
  told,
  form,
}: {
  told: { form: string; error: string; said: string } | null;
  form: string;
}) {
  if (told?.form !== form) return null;
  return told.error === "" ? (
    <p role="status">{told.said}</p>
  ) : (
    <p role="alert" className="text-stop">
      {told.error}
    </p>
  );
}
