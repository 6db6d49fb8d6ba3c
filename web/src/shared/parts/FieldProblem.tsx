/** What is wrong with the field above, or nothing. */
export const FieldProblem = ({ text }: { text: string | null | false | undefined }) =>
  text ? (
    <p className="field-problem" role="alert">
      {text}
    </p>
  ) : null;
