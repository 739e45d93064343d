/** Hours of a day, of a twelfth of a year and of a year. */
export const DAY_H = 24
export const MONTH_H = 730.5
export const YEAR_H = 8766
