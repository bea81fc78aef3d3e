import { differenceInWords, valueInWords } from './values'

test('code values, shares, and stops from middle grey', () => {
  expect([0, 128, 255].map((code) => valueInWords(code, 255, 'code'))).toEqual(['0', '128', '255'])
  expect([0, 32768, 65535].map((code) => valueInWords(code, 65535, 'share'))).toEqual([
    '0.000',
    '0.500',
    '1.000',
  ])
  // 18 % of the light is 46.1 % of the range in sRGB (IEC 61966-2-1): code value 118 of 8 bits.
  expect(valueInWords(118, 255, 'stops')).toBe('+0.01')
  expect(valueInWords(255, 255, 'stops')).toBe('+2.47') // log2(1 / 0.18)
  expect(valueInWords(0, 255, 'stops')).toBe('−∞')
})

test('differences are signed; in stops they are those of light', () => {
  expect(differenceInWords(10, 14, 255, 'code')).toBe('+4')
  expect(differenceInWords(14, 10, 255, 'code')).toBe('−4')
  expect(differenceInWords(10, 10, 255, 'share')).toBe('0.000')
  // Half the light of white is code value 188 of 8 bits in sRGB.
  expect(differenceInWords(255, 188, 255, 'stops')).toBe('−0.99')
  expect(differenceInWords(0, 3, 255, 'stops')).toBe('+∞')
})
