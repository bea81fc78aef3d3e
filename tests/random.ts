export { createRandom } from '../core/random'
