/** A page of one thing, for who is not in a plan. */
export function Sheet({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto mt-[12vh] w-[min(420px,92vw)] border border-iron bg-panel p-5">
      <p className="flex items-center gap-2 font-semibold font-sign text-[18px] text-ink-2">
        <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true">
          <path d="M4 2v4c0 4 3 6 6 7v9h4v-9c3-1 6-3 6-7V2h-4v4c0 2-2 3-4 3S8 8 8 6V2z" fill="currentColor" />
        </svg>
        Iron Fork
      </p>
      <h1 className="mt-1 font-semibold font-sign text-[26px]">{title}</h1>
      {children}
    </main>
  );
}
