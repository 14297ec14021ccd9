/**
 * Nearer to now than this, in milliseconds, one who follows live is with the others; what is shorter has no beginning
 * to go back to.
 */
export const withOthers = 15_000
