/** Words of the document that the interface offers as choices. */

/** What a partition is for. */
export const ROLES = ['boot', 'esp', 'system', 'data', 'swap'] as const;
export type Role = (typeof ROLES)[number];

/** What may start from the medium. */
export const BOOTS = ['uefi', 'bios', 'board'] as const;
export type Boots = (typeof BOOTS)[number];
