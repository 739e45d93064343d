const TABLE = [12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.16, 2.145, 2.131, 2.12, 2.11, 2.101, 2.093, 2.086]

/** Two-sided 95 % point of Student's t. Tabled to 20 degrees of freedom, from there 1.96 + 2.4/ν (within 0.2 %). */
export function T95(freedom: number): number {
  if (freedom < 1) throw new RangeError("Student's t needs at least one degree of freedom")
  return TABLE[freedom - 1] ?? 1.96 + 2.4 / freedom
}
