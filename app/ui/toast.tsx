import { Toast } from "radix-ui";

/** Wraps the application and shows confirmations. */
export function ToastProvider({ children }: { children: React.ReactNode }) {
  return (
    <Toast.Provider swipeDirection="right" duration={8000} label="Notifications">
      {children}
      <Toast.Viewport className="fixed right-4 bottom-4 z-50 flex w-96 max-w-[92vw] flex-col gap-2" />
    </Toast.Provider>
  );
}

interface NoticeProps {
  text: string;
  /** Told at once to those who listen, and kept until it is closed. */
  grave?: boolean;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** Confirms an action, or shows why it failed. */
export function Notice({ text, grave, open, onOpenChange }: NoticeProps) {
  return (
    <Toast.Root
      type={grave ? "foreground" : "background"}
      duration={grave ? 600_000 : undefined}
      open={open}
      onOpenChange={onOpenChange}
      className={`flex items-start gap-3 border-2 bg-panel p-3 shadow-md ${grave ? "border-stop" : "border-iron"}`}
    >
      <Toast.Description role={grave ? "alert" : undefined} className="flex-1 break-words">
        {text}
      </Toast.Description>
      <Toast.Close className="button" aria-label="Close notification">
        Close
      </Toast.Close>
    </Toast.Root>
  );
}
