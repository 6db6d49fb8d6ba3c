import { useEffect, useRef, useState, type DragEvent } from 'react';
import Button from 'react-bootstrap/Button';
import { useSearchParams } from 'react-router';
import { asProblem, type ApiProblem, type Calendar, type LaidOut, type Session } from '../shared/api/client';
import { upload } from '../shared/data/uploads';
import { useTexts } from '../shared/i18n';
import { Told } from '../shared/parts/Told';
import { LaidFile } from './LaidFile';

interface Props {
  calendars: Calendar[];
  school: Session['school'];
}

/** A file is dropped, chosen or pasted, lies ready, and is brought in when it was looked at. Until then nothing is saved. */
export const BringIn = ({ calendars, school }: Props) => {
  const { t } = useTexts();
  // What lies ready stands in the address, so that it is there after a reload.
  const [params, setParams] = useSearchParams();
  const id = params.get('file');
  const [laid, setLaid] = useState<LaidOut | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<ApiProblem | null>(null);
  const [isOver, setOver] = useState(false);
  const choose = useRef<HTMLInputElement>(null);

  const lay = (name: string, body: Blob) => {
    setProblem(null);
    setShare(0);
    upload<LaidOut>(`/api/bringing?name=${encodeURIComponent(name)}`, body, setShare)
      .then((file) => {
        setLaid(file);
        setParams({ file: file.id }, { replace: true });
      })
      .catch((error: unknown) => setProblem(asProblem(error)))
      .finally(() => setShare(null));
  };
  const layFirst = (files: FileList | null) => {
    const file = files?.[0];
    if (file) lay(file.name, file);
  };

  // Cells that are pasted anywhere but into a field.
  const pasted = useRef(lay);
  useEffect(() => {
    pasted.current = lay;
  });
  useEffect(() => {
    const onPaste = (e: ClipboardEvent) => {
      if (e.target instanceof HTMLElement && e.target.closest('input, textarea, select')) return;
      const file = e.clipboardData?.files[0];
      const text = e.clipboardData?.getData('text/plain') ?? '';
      if (file) pasted.current(file.name, file);
      else if (text.includes('\n') || text.includes('\t')) pasted.current('pasted.tsv', new Blob([text]));
      else return;
      e.preventDefault();
    };
    document.addEventListener('paste', onPaste);
    return () => document.removeEventListener('paste', onPaste);
  }, []);

  const close = () => {
    setLaid(null);
    setParams({}, { replace: true });
  };
  return (
    <section aria-labelledby="bring-head">
      <h2 id="bring-head">{t('bring.title')}</h2>
      <div
        className={isOver ? 'drop is-over' : 'drop'}
        onDragOver={(e: DragEvent) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e: DragEvent) => {
          e.preventDefault();
          setOver(false);
          layFirst(e.dataTransfer.files);
        }}
      >
        <p>{t('bring.drop')}</p>
        <p className="quiet">{t('bring.forms')}</p>
        <input
          ref={choose}
          type="file"
          hidden
          onChange={(e) => {
            layFirst(e.target.files);
            e.target.value = '';
          }}
        />
        <Button variant="outline-primary" onClick={() => choose.current?.click()}>
          {t('bring.choose')}
        </Button>
        {share !== null && <progress value={share} max={1} aria-label={t('bring.sending')} />}
      </div>
      {problem && <Told problem={problem} />}
      {id && share === null && (
        <LaidFile
          key={id}
          id={id}
          first={laid?.id === id ? laid : null}
          calendars={calendars}
          school={school}
          onClose={close}
        />
      )}
    </section>
  );
};
