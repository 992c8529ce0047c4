import { Box, Button, Menu, Portal, Text } from '@chakra-ui/react'
import { type ShownChoice, shownChoices } from '@ennick/core'
import { ChevronDown, Eye } from 'lucide-react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useChange, useRead } from '../data/queries.ts'
import { usePageKeys } from '../parts/keys.ts'
import { useViewer } from './address.ts'

export const shownWords: Readonly<Record<ShownChoice, { word: string; about: string }>> = {
  'proxies first': { word: 'proxies first', about: 'a proxy where there is one, else the original' },
  'proxies alone': { word: 'proxies alone', about: 'an absent one is shown as absent' },
  originals: { word: 'originals', about: 'an absent one is shown as absent' },
}

/**
 * What the viewer shows of every clip of the production, in the header at all times: it can be read from any page, and
 * changed there or with a key.
 */
export function ShownSwitch(): ReactElement | null {
  const production = useProduction()
  const params = { productionId: production.id }
  const state = useRead('readShown', { params })
  const change = useChange('setShown')
  const apart = useChange('setClipShown')
  const viewer = useViewer()
  const [isOpen, setOpen] = useState(false)
  const choice = change.isPending ? change.variables.body?.shown : state.data?.choice
  usePageKeys({ s: () => setOpen(true) }, { isOfApp: true })
  if (!choice) return null
  const set = (shown: ShownChoice): void => change.mutate({ params, body: { shown } })
  const others = state.data?.apart ?? []
  return (
    <Menu.Root open={isOpen} onOpenChange={({ open }) => setOpen(open)}>
      <Menu.Trigger asChild>
        <Button
          size="xs"
          variant={choice === 'originals' ? 'outline' : 'subtle'}
          title="What the viewer shows (s)"
          data-testid="shown-switch"
        >
          <Eye size={14} aria-hidden /> Viewing {shownWords[choice].word}
          {others.length > 0 && `, ${others.length} apart`} <ChevronDown size={12} aria-hidden />
        </Button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="page" minWidth="19rem">
            <Menu.RadioItemGroup
              value={choice}
              onValueChange={({ value }) => set(value as ShownChoice)}
              aria-label="What the viewer shows"
            >
              {shownChoices.map((each) => (
                <Menu.RadioItem key={each} value={each}>
                  <Menu.ItemIndicator />
                  <Box>
                    {shownWords[each].word[0]?.toUpperCase()}
                    {shownWords[each].word.slice(1)}
                    <Text color="quiet" fontSize="0.82rem">
                      {shownWords[each].about}
                    </Text>
                  </Box>
                </Menu.RadioItem>
              ))}
            </Menu.RadioItemGroup>
            {others.length > 0 && (
              <>
                <Menu.Separator />
                <Menu.ItemGroup>
                  <Menu.ItemGroupLabel>Set apart</Menu.ItemGroupLabel>
                  {others.slice(0, 12).map((each) => (
                    <Menu.Item
                      key={each.clipId}
                      value={each.clipId}
                      onClick={() => viewer.open({ clipId: each.clipId })}
                    >
                      {each.title}: {shownWords[each.choice].word}
                    </Menu.Item>
                  ))}
                  <Menu.Item
                    value="together"
                    onClick={() => {
                      for (const { clipId } of others) apart.mutate({ params: { clipId }, body: { shown: null } })
                    }}
                  >
                    {others.length === 1 ? 'Set none apart' : `Set none of ${others.length} apart`}
                  </Menu.Item>
                </Menu.ItemGroup>
              </>
            )}
            <Menu.Separator />
            <Text px="2" py="1" color="quiet" fontSize="0.8rem" maxWidth="20rem">
              What leaves the house is always the originals. A smaller view of an original is no proxy: the viewer says
              which file it shows.
            </Text>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}
