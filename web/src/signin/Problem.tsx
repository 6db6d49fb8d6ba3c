export const Problem = ({ text }: { text: string | null }) =>
  text && (
    <p className="notice notice-danger" role="alert">
      {text}
    </p>
  );
