/** From how many steps on a drawing leaves out what is not in view, and is a plain one from afar. */
export const MANY = 60;

/** Below this zoom no word can be read. */
export const AFAR = 0.4;
