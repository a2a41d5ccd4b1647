interface DrawnButtonProps extends Omit<React.SVGProps<SVGGElement>, "onClick" | "onKeyDown" | "role"> {
  label: string;
  onPress: () => void;
}

/** A part of a drawing that is pressed, by pointer or by keyboard: such a part cannot be an HTML button. */
export function DrawnButton({ label, onPress, ...rest }: DrawnButtonProps) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a part of a drawing cannot be an HTML button.
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      className="cursor-pointer"
      onClick={onPress}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onPress();
      }}
      {...rest}
    />
  );
}
