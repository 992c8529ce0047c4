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
}

/**
 * How the encoder is told to read a still as one file: left to itself it takes a "%" in the name for a numbered
 * sequence.
 * @returns null for what is no still by its name
 */
export const stillFormat = (name: string): string | null =>
  byExtension[name.slice(name.lastIndexOf('.') + 1).toLowerCase()] ?? null
