import { benchBrush } from './benchBrush'
await benchBrush()
