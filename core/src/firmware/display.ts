/** A text display on a board's two-wire bus: what it is, and what stands on it for good. */
export interface Display {
  readonly address: number;
  readonly rows: 2 | 4;
  readonly columns: 16 | 20;
}
/** Addresses that such displays may be set to. */
export const DISPLAY_ADDRESSES = { min: 0x20, max: 0x3f } as const;

/** Letters that every such display has: accents go, what is left of other scripts is a dot. */
export const onDisplay = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/ß/g, 'ss')
    .replace(/[^ -[\]-}]/gu, '.');
