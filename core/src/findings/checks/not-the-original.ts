import { type Check, eventNumbers, type Finding, fact, keyedOn, usedClips } from '../finding.ts'

/**
 * What stands in an original's place and is not it: a proxy that a person chose, content that is another than when it
 * was first seen, files that do not go together, a file that cannot be read to its end.
 */
export const notTheOriginal: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const findings: Finding[] = []
    const find = (
      kind: Finding['kind'],
      mark: string,
      message: string,
      evidence: Finding['evidence'],
      mends: Finding['mends'] = ['repoint'],
    ): void => {
      findings.push({
        ...keyedOn(`${kind}:${clip.id}`, mark),
        kind,
        severity: 'blocks handoff',
        message,
        clipId: clip.id,
        pairIds: [],
        events,
        evidence,
        mends,
      })
    }
    const uses = eventNumbers(context, events)
    if (clip.role !== 'original') {
      const why = clip.roleReason ?? `it is a ${clip.role}`
      find(
        'original is a proxy',
        clip.role,
        `${clip.name} stands for the original in ${uses}, and is no original: ${why}.`,
        [fact('role', 'an original', why)],
      )
    }
    if (clip.damage !== null)
      find('original damaged', clip.damage, `${clip.name} is damaged, and carries ${uses}: ${clip.damage}`, [
        fact('decode', 'an original that can be read', clip.damage),
      ])
    const changed = clip.presence === 'here' ? clip.changedFiles : []
    if (changed.length) {
      const paths = changed.map(({ path }) => path)
      // The key names the content: who accepts it accepts this one, and not what may come after it.
      const isWhole = clip.damage === null
      find(
        'original changed',
        changed.map(({ fingerprint }) => fingerprint).join(','),
        `${clip.name} has other content than when it was first seen (${paths.join(', ')}), and carries ${uses}. ` +
          `Repoint to the true one${isWhole ? '; or accept this one, if it was delivered again' : ''}.`,
        paths.map((path) => fact('content', 'the content at first scan', `other content at ${path}`, 'changed since')),
        isWhole ? ['repoint', 'accept redelivery'] : ['repoint'],
      )
    }
    if (clip.presence === 'here' && clip.notOneClip !== null)
      find(
        'parts mismatch',
        clip.notOneClip,
        `The files of ${clip.name} are no one clip any more: ${clip.notOneClip}. It carries ${uses}. ` +
          'Bring back the file that goes with the others, or take back the mend by which this one came.',
        [fact('set', 'files that go together', clip.notOneClip)],
        [],
      )
    return findings
  })
