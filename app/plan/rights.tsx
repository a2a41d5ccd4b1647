import { Link, type LinkProps } from "react-router";
import { atLeast } from "../../server/access/roles.ts";
import { withParam } from "../search/links.ts";
import { usePlan } from "./open-plan.tsx";

/** What the user may do in the open plan: actions that the role does not permit are not offered. */
export function useRights(): { edits: boolean; approves: boolean; administers: boolean } {
  const { role } = usePlan().page;
  return {
    edits: atLeast(role, "edits"),
    approves: atLeast(role, "approves"),
    administers: atLeast(role, "administers"),
  };
}

/** A link that opens a form by the `edit` parameter of the page's address; nothing for viewers. */
export function EditLink({ edit, ...link }: Omit<LinkProps, "to"> & { edit: string }) {
  const { params } = usePlan();
  return useRights().edits ? <Link {...link} to={withParam(params, "edit", edit)} /> : null;
}
