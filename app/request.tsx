import { createContext, useContext } from "react";

/** What the server knows of the request that it renders a page for. */
export interface RequestFacts {
  /** Lets the page's inline scripts run under its content policy. */
  readonly nonce: string;
  /** The request's number, as in the log. */
  readonly requestId: string;
}

declare module "react-router" {
  interface AppLoadContext extends RequestFacts {}
}

const Facts = createContext<RequestFacts | null>(null);
export const RequestFactsProvider = Facts.Provider;

/** In the browser the nonce is hidden, and the number stands on the page's root element. */
export function useRequestFacts(): RequestFacts {
  const facts = useContext(Facts);
  if (facts) return facts;
  const requestId = typeof document === "undefined" ? "" : (document.documentElement.dataset.request ?? "");
  return { nonce: "", requestId };
}
