import { useDocument } from './context.ts'

/** What is said while a large patch comes to the bench. */
export const OpeningWords = () => {
  const opening = useDocument((state) => state.opening)
  return (
    opening && (
      <div
        className="fixed inset-0 z-50 flex items-center justify-center bg-page/80"
        role="status"
        data-testid="opening"
      >
        <div className="rounded-3 border border-rule bg-card px-5 py-4 text-center">
          <p className="text-15 font-semibold">Opening {opening.name} …</p>
          <p className="mt-1 text-ink2">{opening.words}</p>
        </div>
      </div>
    )
  )
}
