const byExtension: Readonly<Record<string, string>> = {
  png: 'png_pipe',
  jpg: 'jpeg_pipe',
  jpeg: 'jpeg_pipe',
  tif: 'tiff_pipe',
  tiff: 'tiff_pipe',
  // A DNG is a TIFF; what the decoder cannot read of it is told as for any file.
  dng: 'tiff_pipe',
  dpx: 'dpx_pipe',
  exr: 'exr_pipe',
  bmp: 'bmp_pipe',
  webp: 'webp_pipe',
  // Of a layered still what its layers come to, which it holds beside them.
  psd: 'psd_pipe',
  jp2: 'j2k_pipe',
  j2k: 'j2k_pipe',
}

/**
 * How the encoder is told to read a still as one file: left to itself it takes a "%" in the name for a numbered
 * sequence.
 * @returns null for what is no still by its name
 */
export const stillFormat = (name: string): string | null =>
  byExtension[name.slice(name.lastIndexOf('.') + 1).toLowerCase()] ?? null
