import type { Role } from "../../../server/access/roles.ts";

/** What a role permits, after "You". */
export const roleWords: Record<Role, string> = {
  none: "see only plans that are shared with you",
  reads: "view every plan",
  edits: "view and edit every plan",
  approves: "view, edit and approve in every plan",
  administers: "administer the workspace",
};
