export * from './estimate.ts'
export * from './plan.ts'
export * from './raster.ts'
export * from './recipe.ts'
