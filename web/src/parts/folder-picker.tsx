import { Box, Button, Flex, Text } from '@chakra-ui/react'
import { CornerLeftUp, File, FileCheck, Folder, FolderOpen, HardDrive } from 'lucide-react'
import { type ReactElement, useEffect, useState } from 'react'
import { useLook } from '../data/queries.ts'
import { Loading, Problem } from './notices.tsx'
import { bytes, count } from './words.ts'

/**
 * Chooses a folder on the server, inside the allowed roots: what is shown is what is chosen.
 * @param file where a file in it is chosen, too: which one is, and what is told when another one is
 */
export function FolderPicker({
  onChoose,
  file,
}: {
  onChoose: (path: string | null) => void
  file?: { chosen: string | null; onChoose: (name: string) => void }
}): ReactElement {
  const [path, setPath] = useState<string | null>(null)
  const listing = useLook('browseFolder', { query: path === null ? {} : { path } })
  useEffect(() => onChoose(path), [path, onChoose])
  return (
    <Box borderWidth="1px" borderColor="rule" bg="paper" data-testid="folder-picker">
      <Flex px="3" py="2" borderBottomWidth="1px" borderColor="rule" align="center" gap="2">
        <FolderOpen size={15} aria-hidden />
        <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" flex="1">
          {path ?? 'Folders that Ennick may use'}
        </Text>
      </Flex>
      <Box height="13rem" overflowY="auto" px="1" py="1">
        {listing.isPending && <Loading what="the folder" />}
        {listing.error && <Problem message={listing.error.message} />}
        {path !== null && (
          <PickerRow
            icon={<CornerLeftUp size={15} aria-hidden />}
            name="Up"
            onClick={() => setPath(listing.data?.parent ?? null)}
          />
        )}
        {listing.data?.mounts.map((mount) => (
          <PickerRow
            key={`mount ${mount.path}`}
            icon={<HardDrive size={15} aria-hidden />}
            name={mount.name}
            detail={`mounted, ${bytes(mount.sizeBytes)}, ${bytes(mount.freeBytes)} free`}
            onClick={() => setPath(mount.path)}
          />
        ))}
        {listing.data?.folders.map((folder) => (
          <PickerRow
            key={folder.path}
            icon={<Folder size={15} aria-hidden />}
            name={folder.name}
            onClick={() => setPath(folder.path)}
          />
        ))}
        {file &&
          listing.data?.media.map((name) => (
            <PickerRow
              key={`file ${name}`}
              icon={name === file.chosen ? <FileCheck size={15} aria-hidden /> : <File size={15} aria-hidden />}
              name={name}
              isChosen={name === file.chosen}
              onClick={() => file.onChoose(name)}
            />
          ))}
        {file && listing.data && listing.data.mediaFiles > listing.data.media.length && (
          <Text color="quiet" px="2" py="1">
            and {listing.data.mediaFiles - listing.data.media.length} more
          </Text>
        )}
        {listing.data?.folders.length === 0 && (!file || listing.data.media.length === 0) && (
          <Text color="quiet" px="2" py="1">
            {path === null ? 'No folder that Ennick may use is there.' : 'No folder below this one.'}
          </Text>
        )}
      </Box>
      <Text px="3" py="1.5" borderTopWidth="1px" borderColor="rule" color="quiet" fontSize="0.85rem">
        {listing.data && path !== null
          ? `Right here: ${count(listing.data.mediaFiles, 'media file')}, ${count(listing.data.otherFiles, 'other file')}, ${count(listing.data.folders.length, 'folder')}${listing.data.freeBytes === null ? '' : ` · ${bytes(listing.data.freeBytes)} free`}`
          : 'Open a folder to choose it. Not listed? Run ./ennick start --allow FOLDER on the machine that runs Ennick.'}
      </Text>
    </Box>
  )
}

function PickerRow({
  icon,
  name,
  detail,
  isChosen,
  onClick,
}: {
  icon: ReactElement
  name: string
  detail?: string
  isChosen?: boolean
  onClick: () => void
}): ReactElement {
  return (
    <Button
      variant={isChosen ? 'subtle' : 'ghost'}
      size="sm"
      width="100%"
      justifyContent="start"
      fontWeight={isChosen ? 'semibold' : 'normal'}
      aria-pressed={isChosen}
      onClick={onClick}
    >
      {icon} {name}
      {detail && (
        <Text as="span" color="quiet" fontSize="0.85rem" ml="auto">
          {detail}
        </Text>
      )}
    </Button>
  )
}
