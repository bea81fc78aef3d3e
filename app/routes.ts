import { index, route, type RouteConfig } from '@react-router/dev/routes'

export default [
  index('routes/shots.tsx'),
  route('cameras', 'routes/cameras.tsx'),
  route('shots/:shotId/survey', 'routes/survey.tsx'),
  route('shots/:shotId/mend', 'routes/mend.tsx'),
  route('shots/:shotId/handover', 'routes/handover.tsx'),

  // Data for machines: no page.
  route('recipes', 'routes/recipes.ts'),
  route('mark-library', 'routes/markLibrary.ts'),
  route('shots/:shotId/edits', 'routes/edits.ts'),
  route('shots/:shotId/copies', 'routes/copies.ts'),
  route('shots/:shotId/scene', 'routes/scene.ts'),
  route('shots/:shotId/survey/state', 'routes/surveyState.ts'),
  route('shots/:shotId/finds.json', 'routes/findsFile.ts'),
  route('shots/:shotId/gathers/:mendId', 'routes/gathers.ts'),
  route('shots/:shotId/mends.json', 'routes/mendsFile.ts'),
  route('shots/:shotId/mattes/:matteId/:frame', 'routes/mattes.ts'),
  route('shots/:shotId/stills/:stillId?', 'routes/stills.ts'),
  route('marks/:markId?', 'routes/marks.ts'),
  route('plates/:plateId/frames/:frame', 'routes/frames.ts'),
  route('plates/:plateId/results', 'routes/results.ts'),
  route('plates/:plateId/rects', 'routes/rects.ts'),
  route('plates/:plateId/looks/:look', 'routes/looks.ts'),
  route('shots/:shotId/thumbnails/:frame', 'routes/thumbnails.ts'),
  route('imports', 'routes/imports.ts'),
  route('imports/:importId', 'routes/import.ts'),
  route('imports/:importId/files/:index', 'routes/importFile.ts'),
  route('versions/:versionId/download', 'routes/download.ts'),
  route('events', 'routes/events.ts'),
  route('health', 'routes/health.ts'),
] satisfies RouteConfig
