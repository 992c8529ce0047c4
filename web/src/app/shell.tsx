import { Box, Button, chakra, Flex, Menu, Portal, Text, VisuallyHidden } from '@chakra-ui/react'
import type { Production } from '@ennick/contract'
import { formatNumber, formatRate } from '@ennick/core'
import { ChevronDown, Keyboard, Lamp, Search } from 'lucide-react'
import { lazy, type ReactElement, type ReactNode, Suspense, useEffect, useRef, useState } from 'react'
import { NavLink, useLocation, useNavigate, useParams } from 'react-router'
import { useChangeStream } from '../data/changes/change-stream.ts'
import { useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { usePageKeys } from '../parts/keys.ts'
import { Loading, Problem } from '../parts/notices.tsx'
import { useViewerAddress } from '../viewer/address.ts'
import { ShownSwitch } from '../viewer/shown-switch.tsx'
import { lastProductionKey } from './first-production.tsx'
import { HelpSheet } from './help-sheet.tsx'
import { NewProduction } from './new-production.tsx'
import { Palette } from './palette.tsx'
import { ProductionProvider } from './production.tsx'
import { stops } from './stops.ts'
import { applyTheme, currentTheme } from './theme.ts'
import { TrialBar } from './trial-bar.tsx'

const Viewer = lazy(async () => ({ default: (await import('../viewer/viewer.tsx')).Viewer }))

/** The page around every stop: the header, the line, and the keys that work everywhere. */
export function Shell({ children }: { children: ReactNode }): ReactElement {
  const { productionId } = useParams()
  const isHeard = useChangeStream()
  const productions = useRead('listProductions', {})
  const [isPaletteOpen, setPaletteOpen] = useState(false)
  const [isHelpOpen, setHelpOpen] = useState(false)
  const [isNewOpen, setNewOpen] = useState(false)
  const navigate = useNavigate()
  const toggleTheme = (): void => applyTheme(currentTheme() === 'dark' ? 'light' : 'dark')
  useStopKeys(productionId ?? '', { openHelp: () => setHelpOpen(true), toggleTheme })
  usePaletteKey(() => setPaletteOpen(true))
  useEffect(() => {
    if (productionId) localStorage.setItem(lastProductionKey, productionId)
  }, [productionId])

  if (productions.isPending) return <Loading what="the production" />
  if (productions.error) return <Problem message={productions.error.message} />
  const production = productions.data.find((candidate) => candidate.id === productionId)
  if (!production) return <Problem message="This production is not here. Open the start page to choose another." />
  return (
    <ProductionProvider value={production}>
      {/* A stop that is not there yet has no frame of its own. */}
      <Flex direction="column" height="100vh" css={{ '& > .loading, & > [role=alert]': { mx: '8', my: '3' } }}>
        <Flex as="header" align="center" px="8" pt="3" pb="1" gap="3">
          <chakra.a
            as={NavLink}
            {...{ to: `/p/${production.id}`, end: true }}
            fontWeight="bold"
            fontSize="1.15rem"
            letterSpacing="0.01em"
            textDecoration="none"
          >
            Ennick
          </chakra.a>
          <ProductionMenu production={production} all={productions.data} onNew={() => setNewOpen(true)} />
          <Text color="quiet" fontSize="0.85rem" fontVariantNumeric="tabular-nums" whiteSpace="nowrap">
            {formatRate(production.rate)} fps · {production.width} × {production.height}
          </Text>
          <Box flex="1" />
          {!isHeard && (
            <Text role="status" fontWeight="semibold" fontSize="0.9rem">
              Ennick does not answer; trying again…
            </Text>
          )}
          <ShownSwitch />
          <Button size="xs" variant="ghost" onClick={() => setPaletteOpen(true)}>
            <Search size={14} aria-hidden /> Find anything <Text color="quiet">Ctrl K</Text>
          </Button>
          <Button size="xs" variant="ghost" onClick={toggleTheme} title="Paper or dim room (d)">
            <Lamp size={14} aria-hidden /> Lamp
          </Button>
          <Button size="xs" variant="ghost" onClick={() => setHelpOpen(true)} title="Keys (?)">
            <Keyboard size={14} aria-hidden /> Keys
          </Button>
        </Flex>
        <Line production={production} />
        <TrialBar key={production.id} production={production} />
        {children}
      </Flex>
      <ViewerOver />
      <Palette isOpen={isPaletteOpen} onClose={() => setPaletteOpen(false)} toggleTheme={toggleTheme} />
      <HelpSheet isOpen={isHelpOpen} onClose={() => setHelpOpen(false)} />
      <Dialog title="A new production" isOpen={isNewOpen} onClose={() => setNewOpen(false)}>
        <NewProduction
          onDone={(address) => {
            setNewOpen(false)
            void productions.refetch().then(() => navigate(address))
          }}
        />
      </Dialog>
    </ProductionProvider>
  )
}

/** The viewer, when the address asks for it; its code is loaded then. */
function ViewerOver(): ReactElement | null {
  const { clipId, cutId } = useViewerAddress()
  return clipId === null && cutId === null ? null : (
    <Suspense fallback={null}>
      <Viewer />
    </Suspense>
  )
}

/** One line, seven stops in the order of work; each says how much waits there. */
function Line({ production }: { production: Production }): ReactElement {
  const today = useRead('today', { params: { productionId: production.id } })
  return (
    <Box as="nav" aria-label="The line" position="relative" px="8" mt="2">
      <Box position="absolute" left="0" right="0" top="9px" height="1px" bg="ink" opacity="0.55" />
      <Flex as="ol" listStyleType="none" justify="space-between" gap="4">
        <Stop to={`/p/${production.id}`} name="Today" waiting={null} />
        {stops.map((stop) => (
          <Stop
            key={stop.id}
            to={`/p/${production.id}/${stop.id}`}
            name={stop.name}
            waiting={today.data?.counts[stop.id] ?? null}
            waits={stop.waits[today.data?.counts[stop.id] === 1 ? 0 : 1]}
          />
        ))}
      </Flex>
    </Box>
  )
}

function Stop({
  to,
  name,
  waiting,
  waits,
}: {
  to: string
  name: string
  waiting: number | null
  waits?: string
}): ReactElement {
  const { pathname } = useLocation()
  const isHere = name === 'Today' ? pathname.replace(/\/$/, '') === to : pathname.startsWith(to)
  return (
    <Box as="li">
      <chakra.a
        as={NavLink}
        {...{ to, end: name === 'Today' }}
        display="flex"
        flexDirection="column"
        textDecoration="none"
        pb="2"
        minWidth="4.5rem"
      >
        <Box height="19px" display="flex" alignItems="center">
          <Box
            width={isHere ? '19px' : '9px'}
            height="9px"
            bg={isHere ? 'tide.solid' : 'paper'}
            borderWidth="1.5px"
            borderColor={isHere ? 'tide.solid' : 'ink'}
          />
        </Box>
        <Flex align="baseline" gap="1.5" fontSize="0.95rem" fontWeight={isHere ? 'bold' : 'normal'}>
          {name}
          {waiting !== null && waiting > 0 && (
            <Text
              as="span"
              fontSize="0.82rem"
              color="quiet"
              fontWeight="normal"
              fontVariantNumeric="tabular-nums"
              title={waits}
            >
              {formatNumber(waiting)}
              <VisuallyHidden> {waits}</VisuallyHidden>
            </Text>
          )}
        </Flex>
      </chakra.a>
    </Box>
  )
}

function ProductionMenu({
  production,
  all,
  onNew,
}: {
  production: Production
  all: readonly Production[]
  onNew: () => void
}): ReactElement {
  const navigate = useNavigate()
  return (
    <Menu.Root>
      <Menu.Trigger asChild>
        <Button
          size="sm"
          variant="ghost"
          fontWeight="semibold"
          flexShrink="1"
          minWidth="0"
          aria-label={`Production: ${production.name}`}
          title={production.name}
        >
          <Text as="span" truncate>
            {production.name}
          </Text>
          <ChevronDown size={14} aria-hidden />
        </Button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="page" maxWidth="40rem">
            {all.map((other) => (
              <Menu.Item key={other.id} value={other.id} onClick={() => navigate(`/p/${other.id}`)}>
                <Text as="span" overflowWrap="anywhere">
                  {other.name}
                </Text>
                {(other.isDemo || other.trialOf) && <Text color="quiet">{other.isDemo ? 'demo' : 'trial'}</Text>}
              </Menu.Item>
            ))}
            <Menu.Separator />
            <Menu.Item value="settings" onClick={() => navigate(`/p/${production.id}/settings`)}>
              Settings
            </Menu.Item>
            <Menu.Item value="history" onClick={() => navigate(`/p/${production.id}/history`)}>
              History
            </Menu.Item>
            <Menu.Item value="glossary" onClick={() => navigate(`/p/${production.id}/glossary`)}>
              Glossary
            </Menu.Item>
            <Menu.Item value="new" onClick={onNew}>
              New production…
            </Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}

/** "g" and then a letter goes to a stop; "d" turns the lamp; "?" lists the keys. */
function useStopKeys(productionId: string, actions: { openHelp: () => void; toggleTheme: () => void }): void {
  const navigate = useNavigate()
  const going = useRef(0)
  const goTo = (path: string): boolean => {
    if (Date.now() - going.current > 1500) return false
    going.current = 0
    navigate(`/p/${productionId}${path}`)
    return true
  }
  const letters = Object.fromEntries(stops.map((stop) => [stop.letter, () => goTo(`/${stop.id}`)]))
  usePageKeys(
    {
      ...letters,
      t: () => goTo(''),
      g: () => {
        going.current = Date.now()
      },
      '?': actions.openHelp,
      d: actions.toggleTheme,
    },
    { isOfApp: true },
  )
}

function usePaletteKey(open: () => void): void {
  const current = useRef(open)
  current.current = open
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'k') return
      event.preventDefault()
      current.current()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}
