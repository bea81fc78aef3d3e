/** The looking aids by name. */
import type { Aid } from '../../core/view/viewTransform'

export const AID_WORDS: Readonly<Record<Aid, { readonly title: string; readonly help: string }>> = {
  plain: { title: 'Plate', help: 'As it is.' },
  boosted: {
    title: 'Boosted',
    help: 'Each place against what is around it: dust and faint marks stand out.',
  },
  mean: { title: 'Mean of all frames', help: 'What stays while the picture moves stays sharp.' },
  spread: { title: 'Spread over time', help: 'How much each place changes: what never changes is black.' },
  neighbour: { title: 'Against next frame', help: 'What differs from the next frame.' },
  red: { title: 'Red', help: 'One channel alone.' },
  green: { title: 'Green', help: 'One channel alone.' },
  blue: { title: 'Blue', help: 'One channel alone.' },
}
