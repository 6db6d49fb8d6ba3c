import { useState } from 'react';
import { copied } from './copy';

/** Passes a page on: by the device's own way where it has one, else by copying its link; or on paper. */
export const Share = ({ texts }: { texts: DOMStringMap }) => {
  const [isCopied, setCopied] = useState(false);
  const share = () => {
    if (typeof navigator.share === 'function')
      void navigator.share({ title: document.title, url: location.href }).catch(() => undefined);
    else void copied(location.href).then(setCopied);
  };
  return (
    <>
      <button type="button" onClick={share}>
        {isCopied ? texts.copied : texts.label}
      </button>{' '}
      <button type="button" onClick={() => print()}>
        {texts.print}
      </button>
    </>
  );
};
