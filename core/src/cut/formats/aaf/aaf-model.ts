/**
 * Numbers of the properties that are read, by class and property (AAF Object Specification 1.1, chapters 7 to 20, and
 * its metadictionary; the same numbers as the local tags of SMPTE ST 377-1 where that has the property).
 */
export const property = {
  header: 0x0002,
  dataDefinition: 0x0201,
  length: 0x0202,
  essenceChoices: 0x0501,
  eventPosition: 0x0601,
  eventComment: 0x0602,
  operation: 0x0b01,
  inputSegments: 0x0b02,
  parameters: 0x0b03,
  scopeSlots: 0x0c01,
  selected: 0x0f01,
  components: 0x1001,
  sourceId: 0x1101,
  sourceSlotId: 0x1102,
  startTime: 0x1201,
  fadeInLength: 0x1202,
  fadeOutLength: 0x1204,
  timecodeStart: 0x1501,
  timecodeFramesPerSecond: 0x1502,
  timecodeDrop: 0x1503,
  transitionOperation: 0x1801,
  mobs: 0x1901,
  identification: 0x1b01,
  definitionName: 0x1b02,
  isTimeWarp: 0x1e02,
  operationDefinitions: 0x2603,
  locators: 0x2f01,
  sampleRate: 0x3001,
  essenceLength: 0x3002,
  storedHeight: 0x3202,
  storedWidth: 0x3203,
  frameLayout: 0x320c,
  channelCount: 0x3d07,
  content: 0x3b03,
  dictionary: 0x3b04,
  urlString: 0x4001,
  mobId: 0x4401,
  mobName: 0x4402,
  slots: 0x4403,
  mobComments: 0x4406,
  usageCode: 0x4408,
  essenceDescription: 0x4701,
  slotId: 0x4801,
  slotSegment: 0x4803,
  physicalTrackNumber: 0x4804,
  eventSlotEditRate: 0x4901,
  slotEditRate: 0x4b01,
  slotOrigin: 0x4b02,
  parameterValue: 0x4d01,
  pointList: 0x4e02,
  commentName: 0x5001,
  commentValue: 0x5003,
} as const

/** Classes of objects: the sixth pair of digits of their number is all that tells them apart. */
const classes: Readonly<Record<string, string>> = {
  '0500': 'EssenceGroup',
  '0800': 'CommentMarker',
  '0900': 'Filler',
  '0a00': 'OperationGroup',
  '0b00': 'NestedScope',
  '0c00': 'Pulldown',
  '0d00': 'ScopeReference',
  '0e00': 'Selector',
  '0f00': 'Sequence',
  '1100': 'SourceClip',
  '1400': 'Timecode',
  '1700': 'Transition',
  '2d00': 'FilmDescriptor',
  '2e00': 'TapeDescriptor',
  '2f00': 'Header',
  '3200': 'NetworkLocator',
  '3500': 'CompositionMob',
  '3600': 'MasterMob',
  '3700': 'SourceMob',
  '3900': 'EventMobSlot',
  '3e00': 'VaryingValue',
  '4100': 'DescriptiveMarker',
  '4900': 'PhysicalDescriptor',
  '4a00': 'ImportDescriptor',
  '4b00': 'RecordingDescriptor',
}

/** The name of a class by its number; null for one that is none of these. */
export function classNameOf(auid: string): string | null {
  const parts = /^0d010101-0101-([\da-f]{4})-060e-2b3402060101$/.exec(auid)
  return parts ? (classes[parts[1] as string] ?? null) : null
}

/** Kinds of what a slot carries: those of today, and those of files from before them. */
const kinds: Readonly<Record<string, 'picture' | 'sound' | 'timecode'>> = {
  '01030202-0100-0000-060e-2b3404010101': 'picture',
  '6f3c8ce1-6cef-11d2-807d-006008143e6f': 'picture',
  '01030202-0200-0000-060e-2b3404010101': 'sound',
  '78e1ebe1-6cef-11d2-807d-006008143e6f': 'sound',
  '01030201-0100-0000-060e-2b3404010101': 'timecode',
  '7f275e81-77e5-11d2-807f-006008143e6f': 'timecode',
}

export const dataKindOf = (auid: string | null): 'picture' | 'sound' | 'timecode' | null => kinds[auid ?? ''] ?? null

/** Operations that the specification defines and that matter to a cut; all others are told by their name. */
export const operation = {
  wipe: '0c3bea44-fc05-11d2-8a29-0050040ef7d2',
  speed: '9d2ea890-0968-11d3-8a38-0050040ef7d2',
  gain: '9d2ea894-0968-11d3-8a38-0050040ef7d2',
} as const

/** What a composition is for: the one that is the programme says so. */
export const topLevelUsage = '0d010102-0101-0700-060e-2b3404010101'
export const clipUsages: ReadonlySet<string> = new Set([
  '0d010102-0101-0500-060e-2b3404010101',
  '0d010102-0101-0600-060e-2b3404010101',
])
