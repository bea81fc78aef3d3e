import { adviceFor } from './MarkPart'

test('the fill that is best for an opaque mark is named, with the reason', () => {
  expect(adviceFor(1)).toContain('show all that it hides')
  expect(adviceFor(0.7)).toContain('Clean plate is best here: other frames show 70 %')
  expect(adviceFor(0.1)).toMatch(/only 10 %.*Texture.*Soften/)
})
