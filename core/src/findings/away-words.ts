/** What is said of a volume whose share or disk neither says what is there nor that nothing is. */
export const doesNotAnswer = 'does not answer: its share or disk hangs'

/** What brings a volume back that is away: a box is put in, and one that is in and hangs is seen to. */
export const bringsBack = (hangs: boolean): string => (hangs ? 'see to its cable, network or server' : 'put it in')
