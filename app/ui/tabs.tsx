import { Tabs } from "radix-ui";

interface TabSetProps {
  label: string;
  tabs: readonly { value: string; text: React.ReactNode; body: React.ReactNode }[];
  /** The tab that is open at first, if `value` is not given; default: the first. */
  initial?: string;
  value?: string;
  onChange?: (value: string) => void;
}

/** Parts of one thing, of which one is seen at a time. Arrow keys go from tab to tab. */
export function TabSet({ label, tabs, initial, value, onChange }: TabSetProps) {
  return (
    <Tabs.Root value={value} defaultValue={value ?? initial ?? tabs[0]?.value} onValueChange={onChange}>
      <Tabs.List aria-label={label} className="flex flex-wrap gap-1 border-rule border-b">
        {tabs.map((tab) => (
          <Tabs.Trigger
            key={tab.value}
            value={tab.value}
            className="-mb-px border-transparent border-b-2 px-2 py-1 text-ink-2 data-[state=active]:border-ink data-[state=active]:font-semibold data-[state=active]:text-ink"
          >
            {tab.text}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {tabs.map((tab) => (
        <Tabs.Content key={tab.value} value={tab.value} className="pt-2">
          {tab.body}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}
