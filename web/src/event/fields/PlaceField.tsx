import Form from 'react-bootstrap/Form';
import { useTexts } from '../../shared/i18n';
import { placeNamed, useLists, wayTo } from '../../shared/data/useLists';
import './fields.scss';

interface Props {
  place: string;
  isInvalid: boolean;
  onPlace: (place: string) => void;
}

/** Where: one of the school's places as it is typed, or any text. */
export const PlaceField = ({ place, isInvalid, onPlace }: Props) => {
  const { t } = useTexts();
  const lists = useLists();
  const known = placeNamed(lists, place);
  const way = wayTo(lists, known);
  return (
    <>
      <Form.Control
        aria-label={t('field.place')}
        placeholder={t('field.placePlaceholder')}
        list="places"
        value={place}
        isInvalid={isInvalid}
        onChange={(e) => onPlace(e.target.value)}
      />
      <datalist id="places">
        {lists.places.map((p) => (
          <option key={p.name} value={p.name} />
        ))}
      </datalist>
      {known && (known.capacity !== null || known.address || known.latitude !== null) && (
        <p className="place-known quiet">
          {[known.capacity !== null && t('place.holds', { count: known.capacity }), known.address]
            .filter(Boolean)
            .join(' · ')}
          {way && (
            <>
              {' · '}
              <a href={way} target="_blank" rel="noopener">
                {t('place.way')}
              </a>
            </>
          )}
          {known.latitude !== null && known.longitude !== null && (
            <>
              {' · '}
              <a href={`geo:${known.latitude},${known.longitude}`}>{t('place.geo')}</a>
            </>
          )}
        </p>
      )}
    </>
  );
};
