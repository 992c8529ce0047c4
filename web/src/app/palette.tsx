import { Box, chakra, Dialog, Portal, Text } from '@chakra-ui/react'
import type { Clip } from '@ennick/contract'
import { Command } from 'cmdk'
import { type ReactElement, useState } from 'react'
import { useNavigate } from 'react-router'
import { useChange, useRead, useSteadyRead } from '../data/queries.ts'
import { useEscape } from '../parts/keys.ts'
import { matches } from '../parts/matches.ts'
import { useProduction } from './production.tsx'
import { stops } from './stops.ts'

interface Entry {
  readonly id: string
  readonly group: string
  readonly text: string
  readonly detail: string
  readonly act: () => void
}

const shownAtMost = 40

/** Finds any clip, volume, cut or proxy by any of its names, clips of other productions, and any action. */
export function Palette({
  isOpen,
  onClose,
  toggleTheme,
}: {
  isOpen: boolean
  onClose: () => void
  toggleTheme: () => void
}): ReactElement {
  const [text, setText] = useState('')
  const entries = useEntries(isOpen, text, toggleTheme)
  const own = entries
    .filter((entry) => entry.group === 'Clips' || matches(text, entry.text, entry.detail))
    .slice(0, shownAtMost)
  const shown = [...own, ...useElsewhere(isOpen, text)]
  const groups = [...new Set(shown.map((entry) => entry.group))]
  const close = (): void => {
    setText('')
    onClose()
  }
  useEscape(isOpen, close)
  return (
    <Dialog.Root
      open={isOpen}
      onOpenChange={({ open }) => !open && close()}
      size="lg"
      placement="top"
      lazyMount
      unmountOnExit
    >
      <Portal>
        <Dialog.Backdrop bg="blackAlpha.400" />
        <Dialog.Positioner>
          <Dialog.Content bg="page" shadow="none" borderWidth="1px" borderColor="rule" aria-label="Find anything">
            <Command shouldFilter={false} loop label="Find anything">
              <chakra.div px="4" py="3" borderBottomWidth="1px" borderColor="rule">
                <Command.Input
                  autoFocus
                  value={text}
                  onValueChange={setText}
                  placeholder="A clip, reel, volume, cut, or something to do"
                  style={{ width: '100%', background: 'transparent', outline: 'none', fontSize: '1.05rem' }}
                />
              </chakra.div>
              <Box
                py="2"
                css={{
                  '& [cmdk-list]': { maxHeight: '22rem', overflowY: 'auto' },
                  '& [cmdk-item]': { px: '4', py: '1.5', cursor: 'pointer' },
                  '& [cmdk-item][data-selected=true]': { bg: 'tide.subtle' },
                  '& [cmdk-group-heading]': { px: '4', py: '1', color: 'quiet', fontSize: '0.82rem' },
                }}
              >
                <Command.List>
                  <Command.Empty>
                    <Text px="4" py="2" color="quiet">
                      Nothing of that name.
                    </Text>
                  </Command.Empty>
                  {groups.map((group) => (
                    <Command.Group key={group} heading={group}>
                      {shown
                        .filter((entry) => entry.group === group)
                        .map((entry) => (
                          <Command.Item
                            key={entry.id}
                            value={entry.id}
                            onSelect={() => {
                              close()
                              entry.act()
                            }}
                          >
                            <Box display="flex" justifyContent="space-between" gap="4">
                              <Text truncate>{entry.text}</Text>
                              <Text color="quiet" fontSize="0.85rem" truncate>
                                {entry.detail}
                              </Text>
                            </Box>
                          </Command.Item>
                        ))}
                    </Command.Group>
                  ))}
                </Command.List>
              </Box>
            </Command>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}

function useEntries(isOpen: boolean, text: string, toggleTheme: () => void): Entry[] {
  const production = useProduction()
  const navigate = useNavigate()
  const scan = useChange('scanVolume')
  const check = useChange('check')
  const input = isOpen ? { params: { productionId: production.id } } : null
  const found = useSteadyRead(
    'searchClips',
    isOpen ? { params: { productionId: production.id }, body: { words: text, limit: shownAtMost } } : null,
  )
  // Enter must never choose what the words before these found.
  const clips = found.isPlaceholderData ? [] : (found.data?.rows ?? [])
  const volumes = useRead('listVolumes', input).data ?? []
  const cuts = useRead('listCuts', input).data ?? []
  if (!isOpen) return []
  const at = (path: string) => () => void navigate(`/p/${production.id}${path}`)
  return [
    { id: 'today', group: 'Go to', text: 'Today', detail: 'g t', act: at('') },
    { id: 'glossary', group: 'Go to', text: 'Glossary', detail: 'what the words mean', act: at('/glossary') },
    { id: 'history', group: 'Go to', text: 'History', detail: 'all that was done', act: at('/history') },
    { id: 'settings', group: 'Go to', text: 'Settings', detail: 'folders that may be used', act: at('/settings') },
    ...stops.map((stop) => ({
      id: stop.id,
      group: 'Go to',
      text: stop.name,
      detail: `g ${stop.letter}`,
      act: at(`/${stop.id}`),
    })),
    {
      id: 'check',
      group: 'Do',
      text: 'Check every file again',
      detail: 'looks at all volumes that are here',
      act: () => check.mutate({ params: { productionId: production.id } }),
    },
    { id: 'lamp', group: 'Do', text: 'Paper or dim room', detail: 'd', act: toggleTheme },
    ...volumes
      .filter((volume) => volume.isHere)
      .map((volume) => ({
        id: `scan-${volume.id}`,
        group: 'Do',
        text: `Scan ${volume.label}`,
        detail: volume.kind,
        act: () => scan.mutate({ params: { volumeId: volume.id } }),
      })),
    ...cuts.map((cut) => ({
      id: cut.id,
      group: 'Cuts',
      text: cut.name,
      detail: cut.fileName,
      act: at(`/cuts/${cut.id}`),
    })),
    ...volumes.map((volume) => ({
      id: volume.id,
      group: 'Volumes',
      text: volume.label,
      detail: `${volume.kind}, ${volume.isHere ? 'here' : 'away'}`,
      act: at('/intake'),
    })),
    ...clips.map((clip) => ({
      id: clip.id,
      group: 'Clips',
      text: clip.title === clip.name.replace(/\.[^.]+$/, '') ? clip.name : `${clip.title} (${clip.name})`,
      detail: clipDetail(clip),
      act: at(`/clips?clip=${clip.id}`),
    })),
  ]
}

/** Clips of other productions: where something is gets asked of whatever job it was. */
function useElsewhere(isOpen: boolean, text: string): Entry[] {
  const { id: productionId } = useProduction()
  const navigate = useNavigate()
  const found = useSteadyRead(
    'findElsewhere',
    isOpen && text.trim().length > 1 ? { params: { productionId }, query: { words: text } } : null,
  )
  if (found.isPlaceholderData || text.trim().length < 2) return []
  return (found.data ?? []).map((clip) => ({
    id: `elsewhere-${clip.clipId}`,
    group: 'In other productions',
    text: clip.name,
    detail: `${clip.production} · ${clip.volumeLabel}, ${clip.presence}`,
    act: () => void navigate(`/p/${clip.productionId}/clips?clip=${clip.clipId}`),
  }))
}

/** Everything by which people know a clip: scene and take, day, reel, timecode, the box it is in. */
function clipDetail(clip: Clip): string {
  const { scene, take, day } = clip.described
  const parts = [
    scene && `scene ${scene}${take ? `, take ${take}` : ''}`,
    day,
    clip.reel && `reel ${clip.reel}`,
    clip.startTimecode,
    clip.volumeLabel,
  ]
  return parts.filter(Boolean).join(' · ')
}
