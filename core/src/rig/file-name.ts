/** What every file is called: whose it is, what it is, and its kind: tile-dipper-side-view.svg. */
export function fileName(of: string | null, what: string, ending: string): string {
  const plain = `${of ?? 'rig'}-${what}`
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '');
  return `${plain}.${ending}`;
}
