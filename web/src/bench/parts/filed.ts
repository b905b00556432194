// What a photo may be filed as that is none of a pattern, by the names that the core knows.

/** An even white surface: it tells the lens's fall-off. */
export const FLAT = "flat";
/** A known-good panel that white and brightness are compared with. */
export const REFERENCE = "reference";
/** A copy of the signal. */
export const FRAME = "frame";
/** Lines that a finger drew. */
export const TRAIL = "trail";
export const OTHERWISE_FILED: readonly string[] = [FLAT, REFERENCE, FRAME, TRAIL];
