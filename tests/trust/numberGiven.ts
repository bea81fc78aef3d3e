/** A number from the command line: `--rounds=50`. */
export function numberGiven(name: string, otherwise: number): number {
  const given = process.argv.find((one) => one.startsWith(`--${name}=`))
  return given === undefined ? otherwise : Number(given.slice(name.length + 3))
}
