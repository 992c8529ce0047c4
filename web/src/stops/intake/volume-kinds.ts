import type { VolumeKindName } from '@ennick/contract'

/** Every kind of volume as people call it; those that leave again come first. */
export const volumeKinds: Readonly<Record<VolumeKindName, string>> = {
  card: 'Camera card',
  recorder: 'Sound recorder',
  disc: 'Disc',
  shuttle: 'Shuttle drive',
  drive: 'Drive',
  share: 'Network share',
  folder: 'Folder',
  managed: 'Managed media',
  upload: 'Upload folder',
}
