import Dropdown from 'react-bootstrap/Dropdown';
import type { Calendar } from '../shared/api/client';
import { useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/parts/Spine';
import type { BoardForm } from './window';

const PAPERS = { a4: 'A4', a3: 'A3', letter: 'letter' } as const;

/** The size and way of the paper, set for one print: a rule of the page cannot be a class. */
const printOn = (paper: keyof typeof PAPERS, form: BoardForm) => {
  const sheet = new CSSStyleSheet();
  const way = form === 'list' ? 'portrait' : 'landscape';
  sheet.replaceSync(`@page { size: ${PAPERS[paper]} ${way}; margin: 10mm; }`);
  document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
  const after = () => {
    document.adoptedStyleSheets = document.adoptedStyleSheets.filter((other) => other !== sheet);
  };
  addEventListener('afterprint', after, { once: true });
  print();
};

/** Prints the board on one of the usual papers. */
export const PrintButton = ({ form }: { form: BoardForm }) => {
  const { t } = useTexts();
  return (
    <Dropdown align="end" className="print-button">
      <Dropdown.Toggle variant="outline-primary">{t('plan.print')}</Dropdown.Toggle>
      <Dropdown.Menu renderOnMount={false}>
        <Dropdown.Header>{t('plan.printOn')}</Dropdown.Header>
        {(Object.keys(PAPERS) as (keyof typeof PAPERS)[]).map((paper) => (
          <Dropdown.Item key={paper} as="button" onClick={() => printOn(paper, form)}>
            {t(`plan.paper.${paper}`)}
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
};

/** Which mark is which calendar's; on paper only. */
export const PrintKey = ({ calendars }: { calendars: Calendar[] }) => {
  const { t } = useTexts();
  return (
    <ul className="print-key" aria-label={t('plan.printKey')}>
      {calendars.map((calendar) => (
        <li key={calendar.id} className={markClass(calendar.mark)}>
          <Spine /> {calendar.title}
        </li>
      ))}
    </ul>
  );
};
