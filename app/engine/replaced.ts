/** The reason of a question that a newer one of its kind took the place of. */
export class Replaced extends Error {}
