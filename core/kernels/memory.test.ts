import { withKernelMemory } from './memory'

test('scopes nest, give back what they took, and copy in what lies outside', () => {
  withKernelMemory(4096, (outer) => {
    const first = outer.take(8).fill(1)
    const inside = withKernelMemory(1024, (inner) => inner.take(8).fill(2).byteOffset)
    expect(outer.take(8).byteOffset).toBe(inside) // the inner scope's place is free again
    expect([...first]).toEqual(Array(8).fill(1))
    expect(outer.pointerTo(first)).toBe(first.byteOffset)
    const pointer = outer.pointerTo(Float32Array.of(3, 4))
    expect([...new Float32Array(first.buffer, pointer, 2)]).toEqual([3, 4])
  })
})

test('a nested scope that finds the memory full works on the ordinary heap', () => {
  withKernelMemory(64, (outer) => {
    const mine = outer.take(4)
    const large = outer.take(100_000_000 / 4)
    expect(large.buffer).not.toBe(mine.buffer)
    expect(() => outer.pointerTo(large)).toThrow('kernel memory is full')
  })
})

test('memory is given back when the work fails', () => {
  const place = withKernelMemory(64, (scope) => scope.take(4).byteOffset)
  expect(() =>
    withKernelMemory(64, (scope) => {
      scope.take(4)
      throw new Error('stop')
    }),
  ).toThrow('stop')
  expect(withKernelMemory(64, (scope) => scope.take(4).byteOffset)).toBe(place)
})
