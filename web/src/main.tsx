import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router/dom'
import { router } from './app/routes.tsx'
import { applyTheme, system } from './app/theme.ts'
import { ApiError } from './data/api.ts'
import { holdStillWhilePressed } from './data/hold-still.ts'
import { followRouter } from './data/page-under-way.ts'

applyTheme()
followRouter(router)
holdStillWhilePressed(document)

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      refetchOnWindowFocus: true,
      // A refusal stays a refusal; only a server that is away for a moment is asked again.
      retry: (count, error) => count < 20 && !(error instanceof ApiError && error.status < 500),
      retryDelay: 1000,
    },
  },
})

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
)
