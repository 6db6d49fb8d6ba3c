import { useRef, useState } from 'react';
import Button from 'react-bootstrap/Button';
import { asProblem, type EventFile } from '../../shared/api/client';
import { problemText, useTexts } from '../../shared/i18n';
import { Bar } from '../../shared/parts/Bar';
import { SheetRow } from '../../shared/parts/Sheet';
import { sizeText, upload } from '../../shared/data/uploads';
import { useLists } from '../../shared/data/useLists';
import './fields.scss';

interface Props {
  files: EventFile[];
  /** The saved event, whose files can be opened. */
  eventId: string | null;
  problem: string | null;
  onFiles: (change: (files: EventFile[]) => EventFile[]) => void;
}

/** A file on its way, or one that was not taken. */
interface Going {
  key: number;
  name: string;
  share: number;
  problem: string | null;
  stop: AbortController;
}

let keys = 0;

/** The event's files: added by choosing or dropping, several at once; replaced in place, so that links stay. */
export const FilesField = ({ files, eventId, problem, onFiles }: Props) => {
  const { t, language } = useTexts();
  const lists = useLists();
  const [going, setGoing] = useState<Going[]>([]);
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const replacing = useRef<string | null>(null);

  const send = (file: File, replaced: string | null) => {
    const key = keys++;
    const stop = new AbortController();
    const set = (change: Partial<Going>) =>
      setGoing((all) => all.map((g) => (g.key === key ? { ...g, ...change } : g)));
    setGoing((all) => [...all, { key, name: file.name, share: 0, problem: null, stop }]);
    upload(`/api/files?name=${encodeURIComponent(file.name)}`, file, (share) => set({ share }), stop.signal).then(
      (made) => {
        setGoing((all) => all.filter((g) => g.key !== key));
        onFiles((now) =>
          replaced ? now.map((f) => (f.id === replaced ? { ...made, id: replaced } : f)) : [...now, made],
        );
      },
      (error: unknown) => set({ problem: problemText(t, asProblem(error)) }),
    );
  };
  const take = (list: FileList | null) => {
    const chosen = [...(list ?? [])];
    const replaced = replacing.current;
    replacing.current = null;
    for (const file of replaced ? chosen.slice(0, 1) : chosen) send(file, replaced);
  };
  const choose = (replaced: string | null) => {
    replacing.current = replaced;
    if (!picker.current) return;
    picker.current.value = '';
    picker.current.multiple = replaced === null;
    picker.current.click();
  };

  return (
    <SheetRow label={t('files.title')}>
      <div
        className={over ? 'files is-over' : 'files'}
        onDragOver={(e) => {
          if (!e.dataTransfer.types.includes('Files')) return;
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          replacing.current = null;
          take(e.dataTransfer.files);
        }}
      >
        {files.length > 0 && (
          <ul aria-label={t('files.title')}>
            {files.map((file) => (
              <li key={file.id}>
                {eventId ? (
                  <a href={`/api/events/${eventId}/files/${file.id}/${encodeURIComponent(file.name)}`} download>
                    {file.name}
                  </a>
                ) : (
                  <span>{file.name}</span>
                )}
                <span className="quiet">{sizeText(file.size, language)}</span>
                <Button
                  variant="link"
                  size="sm"
                  aria-label={t('files.replaceOne', { name: file.name })}
                  onClick={() => choose(file.id)}
                >
                  {t('files.replace')}
                </Button>
                <Button
                  variant="link"
                  size="sm"
                  aria-label={t('files.removeOne', { name: file.name })}
                  onClick={() => onFiles((now) => now.filter((f) => f.id !== file.id))}
                >
                  {t('facts.takeOutShort')}
                </Button>
              </li>
            ))}
          </ul>
        )}
        {going.map((one) => (
          <div key={one.key} className="file-going" role={one.problem ? 'alert' : undefined}>
            <span>{one.name}</span>
            {one.problem ? (
              <span className="field-problem">{one.problem}</span>
            ) : (
              <Bar name={t('files.going', { name: one.name })} share={one.share} />
            )}
            <Button
              variant="link"
              size="sm"
              onClick={() => {
                one.stop.abort();
                setGoing(going.filter((g) => g.key !== one.key));
              }}
            >
              {one.problem ? t('files.dismiss') : t('files.stop')}
            </Button>
          </div>
        ))}
        {problem && (
          <p className="field-problem" role="alert">
            {problem}
          </p>
        )}
        <input ref={picker} type="file" hidden data-files onChange={(e) => take(e.target.files)} />
        <Button variant="outline-primary" size="sm" onClick={() => choose(null)}>
          {t('files.add')}
        </Button>{' '}
        <span className="quiet">{t('files.hint', { limit: lists.maxFileMegabytes })}</span>
      </div>
    </SheetRow>
  );
};
