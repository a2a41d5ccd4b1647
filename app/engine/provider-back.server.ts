/** Where the sign-in provider sends browsers back to. */
export function backOf(address: string): string {
  return `${new URL(address).origin}/sign-in/provider/back`;
}
