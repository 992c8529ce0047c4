import { HStack, IconButton, Text } from '@chakra-ui/react'
import { onVolume } from '@ennick/core'
import { Check, Copy } from 'lucide-react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useRead } from '../data/queries.ts'

/** Browsers keep the clipboard from pages that came over a network without a certificate. */
const canCopy = 'clipboard' in navigator

/**
 * Where a file of the server's disk lies, as people say it: the volume, and the path on it. The full path shows under
 * the pointer and is copied with a press.
 */
export function FilePlace({ path, isQuiet = false }: { path: string; isQuiet?: boolean }): ReactElement {
  const production = useProduction()
  const volumes = useRead('listVolumes', { params: { productionId: production.id } })
  const [isCopied, setCopied] = useState(false)
  const place = onVolume(volumes.data ?? [], path)
  const copy = (): void => {
    void navigator.clipboard.writeText(path).then(() => setCopied(true))
  }
  return (
    <HStack gap="1" minWidth="0" align="start" flex="1" color={isQuiet ? 'quiet' : undefined}>
      <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" title={path}>
        {place ? `${place.volume.label}: ${place.path}` : path}
      </Text>
      {canCopy && (
        <IconButton
          size="2xs"
          variant="ghost"
          flexShrink="0"
          aria-label={isCopied ? 'Copied' : `Copy the full path of ${path.slice(path.lastIndexOf('/') + 1)}`}
          onClick={copy}
        >
          {isCopied ? <Check size={12} aria-hidden /> : <Copy size={12} aria-hidden />}
        </IconButton>
      )}
    </HStack>
  )
}
