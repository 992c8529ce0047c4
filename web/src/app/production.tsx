import type { Production } from '@ennick/contract'
import { createContext, useContext } from 'react'

const ProductionContext = createContext<Production | null>(null)
export const ProductionProvider = ProductionContext.Provider

/** The production chosen in the header. Only used below the shell, which has one. */
export function useProduction(): Production {
  const production = useContext(ProductionContext)
  if (!production) throw new Error('There is no production around this page.')
  return production
}

/** The key under which the clips marked in a production are kept. */
export const clipMarksKey = (production: Production): string => `ennick.marks.${production.id}`
