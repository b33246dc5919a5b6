/** The day as measurements note it, such as 2026-09-12. */
export const today = (): string => new Date().toISOString().slice(0, 10);
