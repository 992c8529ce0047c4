/** East of the date line it is up to fourteen hours later than UTC says. */
const furthestMilliseconds = 14 * 3_600_000

/**
 * The latest date that any calendar on earth shows at a moment, as "2026-11-05". Cameras and recorders write the date
 * of where they are, without saying where that is: later than this it is wrong everywhere.
 */
export const latestDate = (moment: Date): string =>
  new Date(moment.getTime() + furthestMilliseconds).toISOString().slice(0, 10)
