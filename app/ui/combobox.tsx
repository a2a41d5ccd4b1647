import { useCombobox } from "downshift";
import { useEffect, useRef } from "react";

interface ComboboxProps<T> {
  /** The typed text. */
  value: string;
  /** Told of each change, with where the caret stands. */
  onText: (text: string, caret: number) => void;
  choices: readonly T[];
  keyOf: (choice: T) => string;
  draw: (choice: T, highlighted: boolean) => React.ReactNode;
  onTake: (choice: T) => void;
  /** Whether Enter selects the first option by default; otherwise Enter acts as in a form. */
  firstChosen?: boolean;
  /** Whether the options belong to earlier input: Enter selects none of them then. */
  stale?: boolean;
  /** Whether Tab takes the chosen one, or the first. */
  tabTakes?: boolean;
  label: string;
  listLabel: string;
  /** Shown if there is text but no option. */
  nothing?: React.ReactNode;
  onEscape?: () => void;
  input: Omit<React.ComponentProps<"input">, "value" | "onChange">;
  /** Where the list opens and how wide it is. */
  listClass: string;
}

/** A field with a list of options (WAI-ARIA, Combobox Pattern): arrows choose, Enter selects, Escape closes. The parent
 * controls the text. */
export function Combobox<T>(props: ComboboxProps<T>) {
  const { value, onText, choices, keyOf, draw, onTake, firstChosen, label, listLabel, nothing, input } =
    props;
  const {
    isOpen,
    highlightedIndex,
    getInputProps,
    getMenuProps,
    getItemProps,
    openMenu,
    setHighlightedIndex,
  } = useCombobox<T>({
    items: choices as T[],
    itemToString: () => "",
    itemToKey: (item) => (item === null ? "" : keyOf(item)),
    selectedItem: null,
    inputValue: value,
    defaultHighlightedIndex: firstChosen ? 0 : -1,
    stateReducer: (state, { type, changes }) => {
      if (type === useCombobox.stateChangeTypes.InputBlur)
        return { ...changes, selectedItem: state.selectedItem };
      if (type === useCombobox.stateChangeTypes.InputClick) return { ...changes, isOpen: true };
      return changes;
    },
    onStateChange: ({ selectedItem }) => selectedItem && onTake(selectedItem),
  });
  const first = firstChosen ? 0 : -1;
  const shownFor = useRef(choices);
  useEffect(() => {
    if (shownFor.current === choices) return;
    shownFor.current = choices;
    setHighlightedIndex(choices.length > 0 ? first : -1);
  }, [choices, first, setHighlightedIndex]);
  const onKeyDown = (event: React.KeyboardEvent<HTMLInputElement>) => {
    const own = () => Object.assign(event.nativeEvent, { preventDownshiftDefault: true });
    const chosen = choices[Math.max(highlightedIndex, 0)];
    if (event.key === "Home" || event.key === "End") own();
    else if (event.key === "Enter" && (highlightedIndex < 0 || props.stale)) own();
    else if (event.key === "Tab" && props.tabTakes && isOpen && !event.shiftKey && value.trim() && chosen) {
      event.preventDefault();
      own();
      onTake(chosen);
    } else if (event.key === "Escape") {
      if (!isOpen) own();
      else event.stopPropagation();
      props.onEscape?.();
    }
  };
  const open = isOpen && (choices.length > 0 || (nothing !== undefined && value.trim() !== ""));
  return (
    <>
      <input
        {...getInputProps({
          ...input,
          "aria-label": label,
          "aria-labelledby": undefined,
          autoComplete: "off",
          spellCheck: false,
          onKeyDown,
          onFocus: (event) => {
            input.onFocus?.(event as React.FocusEvent<HTMLInputElement>);
            openMenu();
          },
          onChange: (event) => {
            const { value: text, selectionStart } = event.target as HTMLInputElement;
            onText(text, selectionStart ?? text.length);
          },
        })}
        role="combobox"
        aria-expanded={open}
      />
      <div
        {...getMenuProps({ "aria-label": listLabel, "aria-labelledby": undefined })}
        hidden={!open}
        className={`absolute z-20 max-w-[90vw] border border-iron bg-panel py-1 shadow-md ${props.listClass}`}
      >
        {open &&
          choices.map((choice, index) => (
            <div
              key={keyOf(choice)}
              {...getItemProps({ item: choice, index })}
              className={`flex cursor-pointer items-baseline justify-between gap-3 px-3 py-1 ${index === highlightedIndex ? "bg-chosen text-chosen-ink" : ""}`}
            >
              {draw(choice, index === highlightedIndex)}
            </div>
          ))}
        {open && choices.length === 0 && (
          <div
            tabIndex={-1}
            role="option"
            aria-selected="false"
            aria-disabled="true"
            className="px-3 py-1 text-ink-2"
          >
            {nothing}
          </div>
        )}
      </div>
    </>
  );
}
