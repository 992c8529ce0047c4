import { describeRelation, type Relation, relationHolds, relationsOf } from './relation.ts'

/** Something for which a person has yet to choose, with the files that it may be. */
export interface OpenChoice {
  readonly id: string
  /** The path that it had, or no more than its name; null when neither is known. */
  readonly known: string | null
  readonly options: readonly ChoiceOption[]
}

export interface ChoiceOption {
  readonly id: string
  readonly path: string
}

/** What one choice says for others. */
export interface CarriedChoice {
  /** The relation, as people read it. */
  readonly rule: string
  readonly choices: readonly { readonly id: string; readonly option: ChoiceOption }[]
}

/**
 * Carries a person's choice for one thing over to others by the same relation: one root in place of another, one rule
 * by which names were changed, one of the folders between which there was a doubt. A proposal: nothing is chosen by it.
 * @param isShared whether one file may go to several; otherwise none goes to those that would both get it
 * @returns null when the choice says nothing for any other
 */
export function carryOver(
  chosen: OpenChoice,
  optionId: string,
  others: readonly OpenChoice[],
  isShared: boolean,
): CarriedChoice | null {
  const option = chosen.options.find(({ id }) => id === optionId)
  if (!option) return null
  const rivals = chosen.options.filter(({ id }) => id !== optionId).map(({ path }) => path)
  for (const relation of relationsOf(chosen.known, option.path, rivals)) {
    const choices = carriedBy(relation, option.id, others, isShared)
    if (choices.length) return { rule: describeRelation(relation), choices }
  }
  return null
}

function carriedBy(
  relation: Relation,
  takenId: string,
  others: readonly OpenChoice[],
  isShared: boolean,
): CarriedChoice['choices'] {
  const choices = others.flatMap(({ id, known, options }) => {
    const fitting = options.filter(({ path }) => relationHolds(relation, known, path))
    const [option] = fitting
    return option && fitting.length === 1 ? [{ id, option }] : []
  })
  if (isShared) return choices
  const times = new Map([[takenId, 1]])
  for (const { option } of choices) times.set(option.id, (times.get(option.id) ?? 0) + 1)
  return choices.filter(({ option }) => times.get(option.id) === 1)
}
