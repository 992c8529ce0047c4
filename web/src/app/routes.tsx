import type { ReactElement } from 'react'
import { createBrowserRouter, Navigate, Outlet, useRouteError } from 'react-router'
import { Loading, Problem } from '../parts/notices.tsx'
import { FirstProduction } from './first-production.tsx'
import { Shell } from './shell.tsx'

function Broken(): ReactElement {
  const error = useRouteError()
  return (
    <Problem
      message={`This page broke: ${error instanceof Error ? error.message : String(error)}. Reload it; nothing is lost.`}
    />
  )
}

export const router = createBrowserRouter([
  { path: '/', element: <FirstProduction />, errorElement: <Broken /> },
  {
    path: '/p/:productionId',
    element: (
      <Shell>
        <Outlet />
      </Shell>
    ),
    errorElement: <Broken />,
    HydrateFallback: () => <Loading what="the page" />,
    children: [
      { index: true, lazy: async () => ({ Component: (await import('../stops/today/today-stop.tsx')).TodayStop }) },
      {
        path: 'intake',
        lazy: async () => ({ Component: (await import('../stops/intake/intake-stop.tsx')).IntakeStop }),
      },
      { path: 'clips', lazy: async () => ({ Component: (await import('../stops/clips/clips-stop.tsx')).ClipsStop }) },
      { path: 'make', lazy: async () => ({ Component: (await import('../stops/make/make-stop.tsx')).MakeStop }) },
      { path: 'pairs', lazy: async () => ({ Component: (await import('../stops/pairs/pairs-stop.tsx')).PairsStop }) },
      {
        path: 'cuts/:cutId?',
        lazy: async () => ({ Component: (await import('../stops/cuts/cuts-stop.tsx')).CutsStop }),
      },
      {
        path: 'mend/:cutId?',
        lazy: async () => ({ Component: (await import('../stops/mend/mend-stop.tsx')).MendStop }),
      },
      {
        path: 'handoff/:cutId?',
        lazy: async () => ({ Component: (await import('../stops/handoff/handoff-stop.tsx')).HandoffStop }),
      },
      { path: 'glossary', lazy: async () => ({ Component: (await import('./glossary-page.tsx')).GlossaryPage }) },
      { path: 'history', lazy: async () => ({ Component: (await import('./history-page.tsx')).HistoryPage }) },
      { path: 'settings', lazy: async () => ({ Component: (await import('./settings-page.tsx')).SettingsPage }) },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
])
