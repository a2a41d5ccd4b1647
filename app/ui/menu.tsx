import { ContextMenu, DropdownMenu } from "radix-ui";
import { Link } from "react-router";

/** One thing that a menu offers: a way to an address, or something that is done. */
export type MenuItem = { text: string; danger?: boolean; disabled?: boolean } & (
  | { to: string }
  | { run: () => void }
);

const box = "z-50 min-w-44 border border-iron bg-panel py-1 shadow-md";
const line =
  "flex cursor-pointer select-none items-center px-3 py-1 outline-none data-[disabled]:cursor-default data-[highlighted]:bg-chosen data-[highlighted]:text-chosen-ink data-[disabled]:text-ink-3";

type Parts = typeof DropdownMenu | typeof ContextMenu;

/** The lines of a menu, of either kind. */
function Lines({ items, of }: { items: readonly MenuItem[]; of: Parts }) {
  return items.map((item) => (
    <of.Item
      key={item.text}
      disabled={item.disabled}
      className={`${line} ${item.danger ? "text-stop" : ""}`}
      onSelect={"run" in item ? item.run : undefined}
      asChild={"to" in item}
    >
      {"to" in item ? <Link to={item.to}>{item.text}</Link> : item.text}
    </of.Item>
  ));
}

/** A menu that a button opens. */
export function Menu({ trigger, items }: { trigger: React.ReactElement; items: readonly MenuItem[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={box} align="end" sideOffset={4} collisionPadding={8}>
          <Lines items={items} of={DropdownMenu} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface MenuHereProps {
  children: React.ReactElement;
  items: readonly MenuItem[];
}

/** The same where something is clicked with the other button, or the menu key is pressed on it. */
export function MenuHere({ children, items }: MenuHereProps) {
  return (
    <ContextMenu.Root>
      <ContextMenu.Trigger asChild>{children}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={box} collisionPadding={8}>
          <Lines items={items} of={ContextMenu} />
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}
