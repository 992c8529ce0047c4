import { clipDetail } from '../clips.ts'
import { ofClip, route } from './define.ts'

/** One clip. */
export const clipsRoutes = {
  clipWaveform: route(
    'GET',
    '/api/clips/:clipId/waveform.png',
    'The sound of a clip as a picture, one line for each channel',
    {
      params: ofClip,
      mediaType: 'image/png',
    },
  ),
  readClip: route('GET', '/api/clips/:clipId', 'Everything that is known of a clip', {
    params: ofClip,
    response: clipDetail,
  }),
  clipPicture: route('GET', '/api/clips/:clipId/thumbnail.jpg', 'A small picture of a clip', {
    params: ofClip,
    mediaType: 'image/jpeg',
  }),
  clipFilmstrip: route('GET', '/api/clips/:clipId/filmstrip.jpg', 'Eight pictures over the length of a clip', {
    params: ofClip,
    mediaType: 'image/jpeg',
  }),
} as const
