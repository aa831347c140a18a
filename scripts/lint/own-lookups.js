// A rule for ESLint: what is looked up by a text is a Map, or is asked for with Object.hasOwn (`own` in the core). A plain
// object also answers to "constructor", "toString" and "__proto__", which anybody may call a table or an asset.
import ts from 'typescript'

const MESSAGE =
  'A plain object also has what every object has ("constructor", "__proto__"): use a Map, or own(record, name).'

/** A text of any content, not one of some known words. */
const isAnyText = (type) =>
  type.isUnion() ? type.types.some(isAnyText) : (type.flags & ts.TypeFlags.String) !== 0

export const ownLookups = {
  meta: { type: 'problem', schema: [], messages: { plain: MESSAGE } },
  create(context) {
    const { program, esTreeNodeToTSNodeMap } = context.sourceCode.parserServices
    const checker = program.getTypeChecker()
    const typeOf = (node) => checker.getTypeAtLocation(esTreeNodeToTSNodeMap.get(node))
    return {
      MemberExpression(node) {
        if (!node.computed || node.property.type === 'Literal') return
        if (!isAnyText(typeOf(node.property))) return
        if (
          checker
            .getIndexInfosOfType(checker.getNonNullableType(typeOf(node.object)))
            .some((info) => isAnyText(info.keyType))
        )
          context.report({ node, messageId: 'plain' })
      },
    }
  },
}
