/** An answer that is worked out once for each word: for words that come again and again in a long list. */
export function remember<Value>(answer: (word: string) => Value): (word: string) => Value {
  const known = new Map<string, { readonly value: Value }>()
  return (word) => {
    const before = known.get(word)
    if (before) return before.value
    const value = answer(word)
    known.set(word, { value })
    return value
  }
}
