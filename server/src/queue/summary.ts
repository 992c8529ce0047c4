import { count, formatNumber } from '@ennick/core'
import type { JobResult } from '../store/job-types.ts'

/** What a job did, in a line. */
export function summarise(result: JobResult): string {
  switch (result.kind) {
    case 'scan': {
      const parts = [
        count(result.found, 'media file'),
        `${formatNumber(result.probed)} read`,
        `${formatNumber(result.unchanged)} unchanged`,
      ]
      if (result.problems) parts.push(`${formatNumber(result.problems)} not readable`)
      if (result.gone) parts.push(`${formatNumber(result.gone)} gone`)
      if (result.growing) parts.push(`${formatNumber(result.growing)} still being written`)
      if (result.other) parts.push(count(result.other, 'other file'))
      return parts.join(' · ')
    }
    case 'offload': {
      const parts = [`${count(result.copied, 'file')} copied and read back`]
      if (result.already) parts.push(`${formatNumber(result.already)} were there already`)
      if (result.refused.length) parts.push(`${formatNumber(result.refused.length)} not copied`)
      if (result.unlike?.length) parts.push(`${formatNumber(result.unlike.length)} not as the manifest says`)
      if (result.left?.length) parts.push(`${formatNumber(result.left.length)} left by choice`)
      if (result.passedOver?.length) parts.push(`${formatNumber(result.passedOver.length)} passed over`)
      if (result.mended) parts.push(`${count(result.mended, 'lost original points', 'lost originals point')} at them`)
      return parts.join(' · ')
    }
    case 'fetch': {
      const parts = [`${count(result.fetched, 'file')} fetched and verified`]
      if (result.already) parts.push(`${formatNumber(result.already)} there already`)
      if (result.refused) parts.push(`${formatNumber(result.refused)} not fetched`)
      return parts.join(' · ')
    }
    case 'pull': {
      const { copied, already, outstanding, events } = result
      const parts = [`${count(copied, 'file')} copied and read back`]
      if (already) parts.push(`${formatNumber(already)} were there already`)
      if (result.refused.length) parts.push(`${formatNumber(result.refused.length)} not copied`)
      if (outstanding.length) parts.push(`${formatNumber(outstanding.length)} outstanding`)
      parts.push(`${formatNumber(events.covered)} of ${count(events.of, 'event')} covered`)
      return parts.join(' · ')
    }
    case 'restore': {
      const { clips, cuts, verified } = result
      const events = cuts.reduce((sum, cut) => sum + cut.events, 0)
      const landed = cuts.reduce((sum, cut) => sum + cut.onOriginal, 0)
      const parts = [count(clips, 'clip'), count(cuts.length, 'list')]
      if (events) parts.push(`${formatNumber(landed)} of ${count(events, 'event')} on original`)
      if (verified !== null) parts.push(`${count(verified, 'file matches', 'files match')} the manifest`)
      return parts.join(' · ')
    }
    case 'finished':
      return `${formatNumber(result.asCut)} of ${count(result.events, 'event')} shown as cut`
    case 'verify':
      return result.lines.length
        ? `${count(result.matching, 'file matches', 'files match')} · ${formatNumber(result.lines.length)} not`
        : result.matching === 1
          ? 'The one file matches'
          : `All ${count(result.matching, 'file')} match`
    case 'compare':
      return result.lines.length
        ? `${count(result.equal, 'copy is', 'copies are')} the same, byte for byte · ` +
            `${formatNumber(result.lines.length)} not`
        : result.equal === 1
          ? 'The one copy is the same, byte for byte'
          : `All ${count(result.equal, 'copy', 'copies')} are the same, byte for byte`
    case 'collect': {
      const there = result.needed.filter(({ outcome }) => outcome === 'there').length
      const needed = `${formatNumber(there)} of ${count(result.needed.length, 'file')} there`
      return `${needed} · ${formatNumber(result.extraCount)} not needed`
    }
    case 'sync': {
      const found = result.heard.filter(({ outcome }) => outcome === 'found').length
      return `${formatNumber(found)} of ${count(result.heard.length, 'picture')} found in a recording`
    }
    case 'measure':
      return `${count(result.measured, 'clip')} measured`
    case 'restamp':
      return 'Copied under its original’s stamp, its pictures packet for packet'
    case 'join':
      return `${count(result.parts, 'item')} in one file of ${count(result.frames, 'frame')}`
    case 'pad':
      return `Copied with ${count(result.samples, 'sample')} of silence at its end, byte for byte before that`
    case 'try': {
      const parts = [`${count(result.clean, 'original decodes', 'originals decode')} at head, quarters and tail`]
      if (result.damaged) parts.push(`${formatNumber(result.damaged)} damaged`)
      if (result.absent) parts.push(`${formatNumber(result.absent)} not here`)
      return parts.join(' · ')
    }
    case 'look': {
      const parts = [
        `${count(result.looked, 'file')} looked at`,
        `${count(result.compared, 'pair')} compared by their pictures`,
      ]
      if (result.damaged) parts.push(`${formatNumber(result.damaged)} damaged`)
      return parts.join(' · ')
    }
    case 'make':
      return `Checked: ${count(result.checks.length, 'fact agrees', 'facts agree')} with the original`
    case 'check':
      return [
        `${count(result.pairs, 'pair')} looked at`,
        `${count(result.changedFiles, 'file')} changed`,
        ...(result.growing ? [`${formatNumber(result.growing)} still being written`] : []),
      ].join(' · ')
    case 'decode': {
      const parts = [`${formatNumber(result.clean)} decoded from first frame to last`]
      if (result.broken) parts.push(`${formatNumber(result.broken)} broken`)
      if (result.absent) parts.push(`${formatNumber(result.absent)} not here`)
      return parts.join(' · ')
    }
    case 'search': {
      const found = result.rows.filter((item) => item.outcome === 'fits').length
      const parts = [
        `${count(result.looked, 'file')} looked at`,
        `${formatNumber(found)} of ${formatNumber(result.rows.length)} found`,
      ]
      if (result.unreadable?.length) parts.push(`${count(result.unreadable.length, 'folder')} not readable`)
      return parts.join(' · ')
    }
  }
}
