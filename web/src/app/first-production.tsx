import { Box, Heading, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'
import { Navigate, useNavigate } from 'react-router'
import { useRead } from '../data/queries.ts'
import { Loading, Problem } from '../parts/notices.tsx'
import { NewProduction } from './new-production.tsx'

export const lastProductionKey = 'ennick.production'

/** The way in: to the production of last time, to the first there is, or to making one. */
export function FirstProduction(): ReactElement {
  const productions = useRead('listProductions', {})
  const navigate = useNavigate()
  if (productions.isPending) return <Loading what="the productions" />
  if (productions.error) return <Problem message={productions.error.message} />
  const last =
    productions.data.find((production) => production.id === localStorage.getItem(lastProductionKey)) ??
    productions.data[0]
  if (last) return <Navigate to={`/p/${last.id}`} replace />
  return (
    <Box maxWidth="30rem" mx="auto" pt="16" px="6">
      <Heading as="h1" fontSize="1.5rem">
        Ennick
      </Heading>
      <Text color="quiet" mb="6">
        Name the production whose originals, proxies and cuts you want to keep together.
      </Text>
      <NewProduction onDone={(address) => productions.refetch().then(() => navigate(address))} />
    </Box>
  )
}
