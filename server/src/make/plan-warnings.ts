import type { MakePlan } from '@ennick/contract'
import {
  codecTraits,
  formatNumber,
  isForDisplay,
  isMeantFor,
  latestDate,
  losesAlpha,
  nameTrouble,
  type Recipe,
  soundLoss,
  stem,
  targetNameTrouble,
  targetTroubles,
} from '@ennick/core'
import { noticesOf } from '../clips/notices.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { soundUseOf } from '../store/sound-link.ts'

/** What one recipe makes. */
interface RecipeItems {
  readonly recipe: Recipe
  readonly items: MakePlan['items']
}

/** What a person ought to know of a plan before it is begun, in sentences. */
export const planWarnings = (
  { material, decoding }: { readonly material: Material; readonly decoding: ReadonlyMap<string, number> },
  selected: readonly KnownClip[],
  going: MakePlan['items'],
  lists: readonly RecipeItems[],
): string[] => [
  ...cardWarnings(selected),
  ...measureWarnings(selected, decoding, lists),
  ...targetWarnings(material, lists),
  ...nameWarnings(going),
  ...lookWarnings(material, going),
  ...alphaWarnings(material, lists),
  ...fieldWarnings(lists),
  ...soundWarnings(material, lists),
]

/** Behind what is said of the first of several. */
const andMore = (rest: number): string => (rest ? ` So it is with ${rest} more.` : '')

/** What is made from a card alone is made from what may be gone tomorrow. */
function cardWarnings(selected: readonly KnownClip[]): string[] {
  const today = latestDate(new Date())
  const risky = selected.filter((clip) => noticesOf(clip, today).some((notice) => notice.kind === 'only on a card'))
  if (risky.length === 0) return []
  const labels = [...new Set(risky.map((clip) => clip.main.volume.label))].join(', ')
  const these = risky.length === 1 ? 'One of these clips is' : `${formatNumber(risky.length)} of these clips are`
  return [`${these} only on a card (${labels}). Offload first: what is linked to a card is lost with it.`]
}

/** What nobody has measured is made, whether it plays or not. */
function measureWarnings(
  selected: readonly KnownClip[],
  decoding: ReadonlyMap<string, number>,
  lists: readonly RecipeItems[],
): string[] {
  const going = new Set(
    lists
      .filter(({ recipe }) => recipe.skipPlaying !== null)
      .flatMap(({ items }) => items.flatMap(({ clipId, skipped }) => (skipped === null ? [clipId] : []))),
  )
  const count = selected.filter(({ id, main }) => going.has(id) && !decoding.has(main.fingerprint)).length
  if (count === 0) return []
  return [
    `How well ${count === 1 ? 'one of these clips plays' : `${formatNumber(count)} of these clips play`} here ` +
      'was not measured, so ' +
      'nothing is left out for playing well. Measure them in Clips, “Which need a proxy?”.',
  ]
}

/** What the production's target does not take of what would be made for it, by recipe, by name and by reel. */
function targetWarnings({ production: { target }, clips }: Material, lists: readonly RecipeItems[]): string[] {
  if (!target) return []
  return lists.flatMap(({ recipe, items }, index): string[] => {
    if (!isMeantFor(recipe, target)) return []
    // Of the recipe that is planned it is said where that is chosen.
    const troubles = index === 0 ? [] : targetTroubles(recipe, target).map((trouble) => `${recipe.name}: ${trouble}`)
    const going = items.filter((item) => item.skipped === null)
    const names = going.flatMap(({ outputs }) =>
      outputs.flatMap((path) => {
        const trouble = targetNameTrouble(stem(path.slice(path.lastIndexOf('/') + 1)), target)
        return trouble ? [`${path}: ${trouble}.`] : []
      }),
    )
    const long = going.flatMap(({ clipId, name }) => {
      const reel = clips.get(clipId)?.reel ?? ''
      return target.longestReel !== null && [...reel].length > target.longestReel
        ? [`${name} has the reel ${reel}, of more than ${target.longestReel} characters.`]
        : []
    })
    const told = [names, long].flatMap(([first, ...rest]) => (first ? [`${first}${andMore(rest.length)}`] : []))
    return [...troubles, ...told].map((sentence) => `“${target.name}” does not take this. ${sentence}`)
  })
}

/** A LUT that was given to pictures which say that they need none: it is burnt in, as that was chosen. */
function lookWarnings(material: Material, items: MakePlan['items']): string[] {
  const tagged = items.filter(({ clipId, viewingLut }) => {
    const picture = material.clips.get(clipId)?.main.facts?.picture
    return viewingLut !== null && picture && isForDisplay(picture)
  })
  const [first] = tagged
  if (!first) return []
  const transfer = material.clips.get(first.clipId)?.main.facts?.picture?.colour.transfer
  const rest = tagged.length - 1
  return [
    `${first.name} says that it is made for a display (${transfer}), and was given a LUT: ` +
      `it is burnt in all the same, as that was chosen.${andMore(rest)}`,
  ]
}

/** What a person would see only where something lies beneath it: pictures with alpha become opaque. */
function alphaWarnings(material: Material, lists: readonly RecipeItems[]): string[] {
  return lists.flatMap(({ recipe, items }) => {
    const losing = items.filter(({ clipId, skipped, method }) => {
      const picture = material.clips.get(clipId)?.main.facts?.picture
      return skipped === null && method === 'encode' && picture && losesAlpha(recipe.codec, picture)
    })
    const [first] = losing
    if (!first) return []
    const rest = losing.length - 1
    return [
      `${first.name} has an alpha channel, and ${codecTraits[recipe.codec].label} holds none: what is made of it is ` +
        `opaque. It can travel as it is, or be made with FFV1.${andMore(rest)}`,
    ]
  })
}

/** Motion looks otherwise once two fields are one picture. */
function fieldWarnings(lists: readonly RecipeItems[]): string[] {
  return lists.flatMap(({ recipe, items }) => {
    const [first, ...rest] = items.filter(({ skipped, method, fields }) => {
      return skipped === null && method === 'encode' && fields === 'joined'
    })
    if (!first) return []
    return [
      `${first.name} is interlaced: in what “${recipe.name}” makes, both fields of a frame become one picture ` +
        `(deinterlaced), frame for frame.${andMore(rest.length)}`,
    ]
  })
}

/** Sound that somebody said is meant to be used, and that comes out less than it is. */
function soundWarnings(material: Material, lists: readonly RecipeItems[]): string[] {
  return lists.flatMap(({ recipe, items }) => {
    const losing = items.flatMap(({ clipId, name, skipped, method }) => {
      const clip = material.clips.get(clipId)
      if (skipped !== null || method === 'as it is' || !clip?.main.facts || soundUseOf(clip) !== 'real') return []
      const loss = soundLoss(recipe, clip.main.facts)
      return loss ? [{ name, loss }] : []
    })
    const [first] = losing
    if (!first) return []
    const sentence = `The sound of ${first.name} is real, and ${first.loss} in what “${recipe.name}” makes of it.`
    return [`${sentence}${andMore(losing.length - 1)}`]
  })
}

/** Names that this machine holds and another could not. */
function nameWarnings(items: MakePlan['items']): string[] {
  const troubled = items.flatMap((item) => {
    const reason = item.outputs
      .map((path) => nameTrouble(path.slice(path.lastIndexOf('/') + 1)))
      .find((trouble) => trouble !== null)
    return reason ? [{ name: item.name, reason }] : []
  })
  const [first] = troubled
  if (!first) return []
  const rest = troubled.length - 1
  return [`The name of what is made of ${first.name} does not go everywhere: ${first.reason}.${andMore(rest)}`]
}
