/**
 * Runs the networks that find faces, in browsers and in Node alike: with one thread of WebAssembly, so that both give the same bits. Loaded only where
 * faces are looked for.
 */
import type { GraphModel } from '@tensorflow/tfjs-converter'
import type { Tensor } from '@tensorflow/tfjs-core'
import { DETECTOR_PX, LOCATOR_PX, type FaceModel } from '../../core/face/faceModel'

/** Where the files are that `scripts/build-faces.mjs` has laid out. */
export interface FaceFiles {
  /** A folder's path or address, with a slash at its end. */
  readonly folder: string
  read(name: string): Promise<ArrayBuffer>
}

/** What each network answers with, in the order in which it is read. Names are the networks' own. */
const DETECTED = ['Identity', 'Identity_1', 'Identity_2', 'Identity_3']
const LOCATED = ['Identity_2', 'Identity_1']

let loaded: Promise<FaceModel> | null = null

/** Loaded once. Where that failed, the next one who asks tries again. */
export function faceModel(files: FaceFiles): Promise<FaceModel> {
  loaded ??= load(files).catch((cause: unknown) => {
    loaded = null
    throw cause
  })
  return loaded
}

async function load(files: FaceFiles): Promise<FaceModel> {
  const [tf, { loadGraphModel }, { setWasmPaths }] = await Promise.all([
    import('@tensorflow/tfjs-core'),
    import('@tensorflow/tfjs-converter'),
    import('@tensorflow/tfjs-backend-wasm'),
  ])
  tf.env().set('WASM_HAS_MULTITHREAD_SUPPORT', false)
  setWasmPaths(files.folder)
  await tf.setBackend('wasm')
  const [detector, locator] = await Promise.all(
    ['blazeface', 'facemesh'].map(async (name) => {
      const [text, weightData] = await Promise.all([files.read(`${name}.json`), files.read(`${name}.bin`)])
      const { modelTopology, weightsManifest, format, signature } = JSON.parse(new TextDecoder().decode(text)) as StoredModel // prettier-ignore
      const weightSpecs = weightsManifest[0]!.weights
      const artifacts = { modelTopology, weightSpecs, weightData, format, signature }
      return loadGraphModel({ load: () => Promise.resolve(artifacts) })
    }),
  )
  const run = (model: GraphModel, square: Float32Array, sidePx: number, names: readonly string[]) =>
    tf.tidy(() => {
      const answers = model.execute(tf.tensor4d(square, [1, sidePx, sidePx, 3]), [...names]) as Tensor[]
      return answers.map((answer) => Float32Array.from(answer.dataSync()))
    })
  return {
    detect(square) {
      const [near, far, nearBoxes, farBoxes] = run(detector!, square, DETECTOR_PX, DETECTED)
      return { scores: joined(near!, far!), boxes: joined(nearBoxes!, farBoxes!) }
    },
    locate(square) {
      const [points, sure] = run(locator!, square, LOCATOR_PX, LOCATED)
      return { points: points!, sure: sure![0]! }
    },
  }
}

interface StoredModel {
  readonly modelTopology: object
  readonly weightsManifest: readonly {
    readonly weights: import('@tensorflow/tfjs-core').io.WeightsManifestEntry[]
  }[]
  readonly format: string
  readonly signature: object
}

function joined(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}
