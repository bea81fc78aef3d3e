/**
 * Elementary functions that give the same bits everywhere.
 *
 * JavaScript lets an engine choose the last bit of `Math.exp`, `Math.sin` and their like, and engines
 * differ. A preview in the browser must equal the server's render byte for byte, so core uses these.
 * (`Math.sqrt` and the four operations are exact by IEEE 754 and stay.) A lint rule forbids the rest.
 */
import { kernels } from './module'

export const exp = (x: number): number => kernels().exp(x)
export const log = (x: number): number => kernels().log(x)
export const pow = (base: number, exponent: number): number => kernels().pow(base, exponent)
export const sin = (angleRad: number): number => kernels().sin(angleRad)
export const cos = (angleRad: number): number => kernels().cos(angleRad)
export const atan2 = (y: number, x: number): number => kernels().atan2(y, x)
