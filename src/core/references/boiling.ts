/** Coefficients of the backward equation for saturation temperature, IAPWS-IF97, region 4. */
const N = [
  0.11670521452767e4, -0.72421316703206e6, -0.17073846940092e2, 0.1202082470247e5, -0.32325550322333e7,
  0.1491510861353e2, -0.48232657361591e4, 0.40511340542057e6, -0.23855557567849, 0.65017534844798e3,
] as const

/**
 * Temperature at which pure water boils, °C, under a pressure in hPa: IAPWS-IF97, equation 31, from 6.11 hPa to the
 * critical point. Within 0.01 K at any pressure of weather.
 */
export function boilingC(hPa: number): number {
  const [n1, n2, n3, n4, n5, n6, n7, n8, n9, n10] = N
  const beta = Math.pow(hPa / 10_000, 0.25)
  const e = beta * beta + n3 * beta + n6
  const f = n1 * beta * beta + n4 * beta + n7
  const g = n2 * beta * beta + n5 * beta + n8
  const d = (2 * g) / (-f - Math.sqrt(f * f - 4 * e * g))
  return (n10 + d - Math.sqrt((n10 + d) ** 2 - 4 * (n9 + n10 * d))) / 2 - 273.15
}

/** Pressure of the standard atmosphere at a height above the sea, m, in hPa (ISO 2533, up to 11 km). */
export const pressureAt = (altitudeM: number): number => 1013.25 * Math.pow(1 - 2.25577e-5 * altitudeM, 5.25588)
