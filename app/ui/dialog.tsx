import { AlertDialog, Dialog } from "radix-ui";
import { Button } from "./button.tsx";

const veil = "fixed inset-0 z-40 bg-black/40";
const sheet =
  "fixed top-1/2 left-1/2 z-40 max-h-[86vh] w-[min(560px,94vw)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto border border-iron bg-panel p-4 shadow-lg";

interface WindowProps {
  title: string;
  /** Its purpose in one sentence. */
  about?: string;
  /** The button that opens it; none where `open` is steered from outside. */
  trigger?: React.ReactElement;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  children: React.ReactNode;
}

/** A window over the page; Escape and the veil close it, and focus goes back to where it came from. */
export function Window({ title, about, trigger, open, onOpenChange, children }: WindowProps) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>}
      <Dialog.Portal>
        <Dialog.Overlay className={veil} />
        <Dialog.Content className={sheet} {...(about ? {} : { "aria-describedby": undefined })}>
          <div className="flex items-baseline justify-between gap-4">
            <Dialog.Title className="font-semibold font-sign text-[20px]">{title}</Dialog.Title>
            <Dialog.Close asChild>
              <Button>Close</Button>
            </Dialog.Close>
          </div>
          {about && <Dialog.Description className="text-ink-2">{about}</Dialog.Description>}
          <div className="mt-3">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface ConfirmProps {
  title: string;
  /** The action and everything it includes. */
  children: React.ReactNode;
  trigger: React.ReactElement;
  /** What the button that does it says. */
  action: string;
  onConfirm: () => void;
}

/** Asks before something is done that takes more along than was clicked on, or that cannot be undone. */
export function Confirm({ title, children, trigger, action, onConfirm }: ConfirmProps) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>{trigger}</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className={veil} />
        <AlertDialog.Content className={sheet}>
          <AlertDialog.Title className="font-semibold font-sign text-[20px]">{title}</AlertDialog.Title>
          <AlertDialog.Description asChild>
            <div className="mt-1">{children}</div>
          </AlertDialog.Description>
          <div className="mt-4 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Cancel</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button look="danger" onClick={onConfirm}>
                {action}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
