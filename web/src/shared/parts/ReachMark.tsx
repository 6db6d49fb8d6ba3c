import type { Reach } from '../api/client';
import { useTexts } from '../i18n';

const LEVELS = { nothing: 0, timesOnly: 1, headlines: 2, everything: 3 } as const;

/** Three bars for members, link holders and everyone, as high as what they get; and the same in words. */
export const ReachMark = ({ reach }: { reach: Reach }) => {
  const { t } = useTexts();
  const key = reach.everyone !== 'nothing' ? 'everyone' : reach.linkHolders !== 'nothing' ? 'linkHolders' : 'members';
  return (
    <span className="reach-mark">
      <span className="reach-bars" aria-hidden="true">
        {[reach.members, reach.linkHolders, reach.everyone].map((detail, i) => (
          <span key={i} className={`reach-bar level-${LEVELS[detail]}`} />
        ))}
      </span>
      {t(`reach.short.${key}.${reach[key]}`)}
    </span>
  );
};
