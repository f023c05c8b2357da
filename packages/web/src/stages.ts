/** The six stops of the route, in the order of the work. */
export const STAGES = ['plate', 'follow', 'pin', 'prove', 'dress', 'hand-over'] as const;
export type Stage = (typeof STAGES)[number];
