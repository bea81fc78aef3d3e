/** Where a version stands: signed off, sent back, or still to be looked at. */
import { REVIEW_STATE_IDS, REVIEW_STATES } from '../../core/proof/review'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useAuthor } from './author'
import { AuthorField } from './NotesPart'
import { useProofParts } from './ProofContext'

export function ReviewPart() {
  const { version, provable, order } = useProofParts()
  const author = useAuthor((one) => one.name).trim()
  if (!version)
    return (
      <p className="shrink-0 border-t border-line p-3 text-soft">
        {provable.length > 0
          ? 'A version is signed off: choose one above.'
          : 'A version is signed off. Make one at Handover.'}
      </p>
    )
  const [last, ...before] = version.reviews
  return (
    <section aria-label="Sign-off" className="shrink-0 border-t border-line p-3">
      <p data-testid="review-state">
        <span
          className={`font-semibold ${last?.state === 'approved' ? 'text-thread' : last?.state === 'sent-back' ? 'text-snag' : ''}`}
        >
          {REVIEW_STATES[last?.state ?? 'in-work']}
        </span>
        {last && (
          <span className="text-soft">
            {' '}
            by {last.author}, {new Date(last.at).toLocaleString()}
          </span>
        )}
      </p>
      {before.length > 0 && (
        <p className="text-xs text-soft">
          Before:{' '}
          {before.map(({ state, author: by }) => `${REVIEW_STATES[state].toLowerCase()} (${by})`).join(', ')}
        </p>
      )}{' '}
      {/* prettier-ignore */}
      <AuthorField />
      <p className="flex flex-wrap gap-1.5 pt-1.5">
        {REVIEW_STATE_IDS.filter((state) => state !== (last?.state ?? 'in-work')).map((state) => (
          <button
            key={state}
            type="button"
            disabled={!author}
            className={
              state === 'approved'
                ? 'rounded-sm bg-thread px-3 py-0.5 font-semibold text-well disabled:opacity-50'
                : SMALL_BUTTON
            }
            onClick={() => order({ intent: 'review', versionId: version.id, state, author })}
          >
            {
              {
                'in-work': 'In work again',
                'to-look-at': 'To look at',
                approved: 'Sign off',
                'sent-back': 'Send back',
              }[state]
            }
          </button>
        ))}
      </p>
    </section>
  )
}
