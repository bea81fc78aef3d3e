import { useBench } from '../BenchContext'
import { TopBar, type TopBarProps } from './TopBar'

/** The bar above a stage on a shot: the other stages keep the frame that is looked at. */
export function BenchTopBar(props: Omit<TopBarProps, 'frame'>) {
  const frame = useBench((bench) => bench.frame)
  return <TopBar {...props} frame={frame} />
}
