import { Tooltip } from "radix-ui";

/** Around the whole application: one tooltip is open at a time, the next one at once. */
export function TooltipProvider({ children }: { children: React.ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={350} skipDelayDuration={200}>
      {children}
    </Tooltip.Provider>
  );
}

/** Additional information about the hovered or focused element. `children` is one element that takes a ref. Essential
 * information is never only in a tooltip. */
export function Tip({ text, children }: { text: React.ReactNode; children: React.ReactElement }) {
  if (text === "" || text === null) return children;
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={5}
          collisionPadding={8}
          className="z-50 max-w-80 rounded-[3px] bg-ink px-2 py-1 text-[13px] text-ground leading-[18px] shadow-md"
        >
          {text}
          <Tooltip.Arrow className="fill-ink" />
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
