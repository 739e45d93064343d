/** The field, or nothing while it has its usual value. */
export function omitDefault<K extends string, const V>(key: K, value: V, usual: NoInfer<V>): { [key in K]?: V } {
  return value === usual ? {} : ({ [key]: value } as { [key in K]?: V })
}
