/** Hands a blob to the person as a file. */
export function saveBlob(name: string, blob: Blob): void {
  const url = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}

/** Hands a text to the person as a file. */
export const saveFile = (name: string, mediaType: string, text: string): void =>
  saveBlob(name, new Blob([text], { type: mediaType }));

/** Hands several files over as one archive; names may have a folder before them. */
export async function saveZip(
  name: string,
  files: readonly { readonly name: string; readonly text: string }[],
): Promise<void> {
  const { strToU8, zipSync } = await import('fflate');
  const bytes = zipSync(Object.fromEntries(files.map((file) => [file.name, strToU8(file.text)])));
  saveBlob(name, new Blob([new Uint8Array(bytes)], { type: 'application/zip' }));
}

/** Draws an SVG on white at twice its size and hands it over as a PNG file. */
export async function savePng(name: string, svg: string, width: number, height: number): Promise<void> {
  const image = new Image(width, height);
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = 2 * width;
  canvas.height = 2 * height;
  const context = canvas.getContext('2d')!;
  context.fillStyle = '#ffffff';
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (blob) saveBlob(name, blob);
}
