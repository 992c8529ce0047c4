import { Box, chakra, Flex, Table, Text } from '@chakra-ui/react'
import { Check, CircleAlert, Minus } from 'lucide-react'
import type { ReactElement } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'

/** Does what came fit the production? Each property with every value that came; a value leads to its clips. */
export function FitTable(): ReactElement | null {
  const production = useProduction()
  const fit = useRead('readFit', { params: { productionId: production.id } })
  if (fit.error) return <Problem message={fit.error.message} />
  if (!fit.data || fit.data.length === 0) return null
  const troubled = fit.data.filter(({ values }) => values.some(({ trouble }) => trouble !== null))
  return (
    <Box mb="8" data-testid="fit">
      <Section
        title={
          troubled.length === 0
            ? 'What came fits the production'
            : `What came does not fit the production in ${troubled.map(({ property }) => property.toLowerCase()).join(', ')}`
        }
      >
        <Table.Root size="sm" bg="transparent">
          <Table.Header>
            <Table.Row bg="transparent">
              {['Property', production.name, 'What came'].map((title) => (
                <Table.ColumnHeader key={title} color="quiet">
                  {title}
                </Table.ColumnHeader>
              ))}
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {fit.data.map(({ property, wanted, values }) => (
              <Table.Row key={property} bg="transparent">
                <Table.Cell verticalAlign="top" width="9rem">
                  {property}
                </Table.Cell>
                <Table.Cell verticalAlign="top" width="9rem" color="quiet">
                  {wanted ?? 'as it comes'}
                </Table.Cell>
                <Table.Cell>
                  {values.map(({ value, clips, trouble, condition }) => (
                    <Flex key={`${value} ${trouble}`} gap="2" align="baseline">
                      {trouble ? (
                        <CircleAlert size={13} aria-label="needs a look" />
                      ) : wanted === null ? (
                        <Minus size={13} aria-label="nothing is asked" />
                      ) : (
                        <Check size={13} aria-label="fits" />
                      )}
                      <chakra.a
                        as={Link}
                        {...{
                          to: `/p/${production.id}/clips?find=${encodeURIComponent(JSON.stringify(condition))}`,
                        }}
                        textDecoration="underline"
                      >
                        {value}: {count(clips, 'clip')}
                      </chakra.a>
                      {trouble && <Text fontWeight="semibold">{trouble}</Text>}
                    </Flex>
                  ))}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      </Section>
    </Box>
  )
}
