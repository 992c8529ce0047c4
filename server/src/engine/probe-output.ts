/** A stream as the probe tells of it. */
export interface Stream {
  index?: number
  codec_type?: string
  codec_name?: string
  codec_tag_string?: string
  start_time?: string
  profile?: string
  width?: number
  height?: number
  sample_aspect_ratio?: string
  pix_fmt?: string
  field_order?: string
  color_primaries?: string
  color_transfer?: string
  color_space?: string
  color_range?: string
  r_frame_rate?: string
  avg_frame_rate?: string
  time_base?: string
  duration_ts?: number
  nb_frames?: string
  nb_read_packets?: string
  channels?: number
  channel_layout?: string
  sample_rate?: string
  bits_per_raw_sample?: string
  bits_per_sample?: number
  disposition?: { attached_pic?: number }
  tags?: Record<string, string>
  side_data_list?: { rotation?: number }[]
}

/** What the probe says of a file. */
export interface ProbeOutput {
  packets?: { stream_index?: number; flags?: string; size?: string }[]
  streams?: Stream[]
  format?: { format_name?: string; start_time?: string; tags?: Record<string, string> }
}

export const isPicture = (stream: Stream): boolean => stream.codec_type === 'video' && !stream.disposition?.attached_pic
export const isStill = (output: ProbeOutput): boolean => /_pipe$|^image2/.test(output.format?.format_name ?? '')
