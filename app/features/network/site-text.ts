/** A site's name as it stands on the map. */
export const siteText = (id: string) => id.replaceAll("-", " ").toUpperCase();
