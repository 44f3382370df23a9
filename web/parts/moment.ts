/** This moment in universal time, as a column holds it. */
export const moment = (): string => new Date().toISOString().slice(0, 19).replace('T', ' ')
