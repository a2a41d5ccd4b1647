import { Popover } from "radix-ui";

interface PopoverBoxProps {
  trigger: React.ReactElement;
  /** What the box is, for those who do not see it. */
  label: string;
  children: React.ReactNode;
  side?: "top" | "right" | "bottom" | "left";
  align?: "start" | "center" | "end";
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  className?: string;
}

/** A small box beside the button that opens it; Escape and a click elsewhere close it. */
export function PopoverBox({
  trigger,
  label,
  children,
  side,
  align = "start",
  open,
  onOpenChange,
  className = "w-72",
}: PopoverBoxProps) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={label}
          side={side}
          align={align}
          sideOffset={5}
          collisionPadding={8}
          className={`z-30 max-h-[70vh] overflow-y-auto border border-iron bg-panel p-3 shadow-md ${className}`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
