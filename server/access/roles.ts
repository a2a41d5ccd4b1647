/** Roles; each includes those before it. */
export const roles = ["none", "reads", "edits", "approves", "administers"] as const;
export type Role = (typeof roles)[number];

export function isRole(text: string): text is Role {
  return (roles as readonly string[]).includes(text);
}

export function atLeast(role: Role, needed: Role): boolean {
  return roles.indexOf(role) >= roles.indexOf(needed);
}

/** The lesser of two. */
export function atMost(role: Role, limit: Role): Role {
  return atLeast(role, limit) ? limit : role;
}

/** What a role is called where people read it. */
export const roleNames: Readonly<Record<Role, string>> = {
  none: "none",
  reads: "viewer",
  edits: "editor",
  approves: "approver",
  administers: "administrator",
};
