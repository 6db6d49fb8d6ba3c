import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { asProblem, type Picture } from '../../shared/api/client';
import { problemText, useTexts } from '../../shared/i18n';
import { SheetRow } from '../../shared/parts/Sheet';
import { upload } from '../../shared/data/uploads';
import './fields.scss';

const Cropper = lazy(() => import('./Cropper'));

interface Props {
  picture: Picture | null;
  onPicture: (picture: Picture | null) => void;
}

/** The event's picture: cropped to a banner, with words for those who do not see it. */
export const PictureField = ({ picture, onPicture }: Props) => {
  const { t } = useTexts();
  const picker = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState<{ file: File; address: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => () => (chosen ? URL.revokeObjectURL(chosen.address) : undefined), [chosen]);

  const take = (file: File | undefined) => {
    if (!file) return;
    setProblem(null);
    setChosen({ file, address: URL.createObjectURL(file) });
  };
  const keep = async (crop: { x: number; y: number; width: number; height: number }) => {
    if (!chosen) return;
    setBusy(true);
    setProblem(null);
    try {
      const query = new URLSearchParams(Object.entries(crop).map(([name, value]) => [name, String(value)]));
      const made = await upload<Picture>(`/api/pictures?${query}`, chosen.file, () => undefined);
      onPicture({ ...made, alt: picture?.alt ?? '' });
      setChosen(null);
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    } finally {
      setBusy(false);
    }
  };

  return (
    <SheetRow label={t('picture.title')}>
      <input
        ref={picker}
        type="file"
        accept="image/png,image/jpeg,image/webp,image/gif"
        hidden
        data-picture
        onChange={(e) => take(e.target.files?.[0])}
      />
      {picture && !chosen && (
        <>
          <img
            className="banner"
            src={`/api/pictures/${picture.id}/small`}
            alt={picture.alt}
            width={640}
            height={256}
          />
          <Form.Control
            size="sm"
            aria-label={t('picture.alt')}
            placeholder={t('picture.alt')}
            value={picture.alt}
            maxLength={300}
            onChange={(e) => onPicture({ ...picture, alt: e.target.value })}
          />
          {!picture.alt && <p className="quiet">{t('picture.altWhy')}</p>}
        </>
      )}
      {chosen && (
        <Suspense fallback={<p className="quiet">{t('loading')}</p>}>
          <Cropper
            address={chosen.address}
            busy={busy}
            onKeep={(crop) => void keep(crop)}
            onCancel={() => {
              setChosen(null);
              setProblem(null);
            }}
            onBroken={() => {
              setChosen(null);
              setProblem(t('problem.picture_broken'));
            }}
          />
        </Suspense>
      )}
      {problem && (
        <p className="field-problem" role="alert">
          {problem}
        </p>
      )}
      {!chosen && (
        <div className="picture-tools">
          <Button
            variant="outline-primary"
            size="sm"
            onClick={() => {
              if (picker.current) picker.current.value = '';
              picker.current?.click();
            }}
          >
            {picture ? t('picture.other') : t('picture.add')}
          </Button>
          {picture && (
            <Button variant="link" size="sm" onClick={() => onPicture(null)}>
              {t('picture.remove')}
            </Button>
          )}
        </div>
      )}
    </SheetRow>
  );
};
