/** Nodes of the demo that the products of a test file have, by their slugs: all unless the file says less. */
export const demoNodes: { only: readonly string[] | null } = { only: null }
