import { Mark } from "../../ui/mark.tsx";
/** A page of one thing, for who is not in a plan. */
export function Sheet({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto mt-[12vh] w-[min(420px,92vw)] border border-iron bg-panel p-5">
      <p className="flex items-center gap-2 font-semibold font-sign text-[18px] text-ink-2">
        <Mark size={20} />
        Iron Fork
      </p>
      <h1 className="mt-1 font-semibold font-sign text-[26px]">{title}</h1>
      {children}
    </main>
  );
}
