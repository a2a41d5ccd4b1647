import type { Role } from "../../../server/access/roles.ts";

/** What somebody with a role may do, after "you may" or a name. */
export const roleWords: Record<Role, string> = {
  none: "see only plans that are shared with you",
  reads: "view every plan",
  edits: "view and edit every plan",
  approves: "view, edit and approve in every plan",
  administers: "administer the workspace",
};
