export * from "./templates.ts";
export {
  type DeviceText,
  type StepTexts,
  type TextedRunbook,
  type TextedStep,
  type TextedVisit,
  withTexts,
} from "./texts.ts";
