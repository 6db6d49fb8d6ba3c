import { useState } from 'react';

/** Passes a page on: by the device's own way where it has one, else by copying its link; or on paper. */
export const Share = ({ texts }: { texts: DOMStringMap }) => {
  const [copied, setCopied] = useState(false);
  const share = () => {
    if (typeof navigator.share === 'function')
      void navigator.share({ title: document.title, url: location.href }).catch(() => undefined);
    else
      void navigator.clipboard?.writeText(location.href).then(
        () => setCopied(true),
        () => setCopied(false),
      );
  };
  return (
    <>
      <button type="button" onClick={share}>
        {copied ? texts.copied : texts.label}
      </button>{' '}
      <button type="button" onClick={() => print()}>
        {texts.print}
      </button>
    </>
  );
};
