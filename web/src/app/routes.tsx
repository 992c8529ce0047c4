import type { ReactElement } from 'react'
import { createBrowserRouter, Navigate, Outlet, useRouteError } from 'react-router'
import { Problem } from '../parts/notices.tsx'
import { ClipsStop } from '../stops/clips/clips-stop.tsx'
import { CutsStop } from '../stops/cuts/cuts-stop.tsx'
import { HandoffStop } from '../stops/handoff/handoff-stop.tsx'
import { IntakeStop } from '../stops/intake/intake-stop.tsx'
import { MakeStop } from '../stops/make/make-stop.tsx'
import { MendStop } from '../stops/mend/mend-stop.tsx'
import { PairsStop } from '../stops/pairs/pairs-stop.tsx'
import { TodayStop } from '../stops/today/today-stop.tsx'
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
    children: [
      { index: true, element: <TodayStop /> },
      { path: 'intake', element: <IntakeStop /> },
      { path: 'clips', element: <ClipsStop /> },
      { path: 'make', element: <MakeStop /> },
      { path: 'pairs', element: <PairsStop /> },
      { path: 'cuts/:cutId?', element: <CutsStop /> },
      { path: 'mend/:cutId?', element: <MendStop /> },
      { path: 'handoff/:cutId?', element: <HandoffStop /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
])
