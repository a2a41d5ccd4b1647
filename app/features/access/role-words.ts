import type { Role } from "../../../server/access/roles.ts";

/** What somebody with a role may do, after "you may" or a name. */
export const roleWords: Record<Role, string> = {
  none: "see nothing but the plans that you are given",
  reads: "read every plan",
  edits: "read and edit every plan",
  approves: "read, edit and approve in every plan",
  administers: "administer the workspace",
};
