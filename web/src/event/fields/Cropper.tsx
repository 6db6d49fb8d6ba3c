import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import { centerCrop, makeAspectCrop, ReactCrop, type PercentCrop } from 'react-image-crop';
import 'react-image-crop/dist/ReactCrop.css';
import { useTexts } from '../../shared/i18n';

/** A banner is two and a half times as wide as high. */
const RATIO = 2.5;

interface Props {
  address: string;
  busy: boolean;
  onKeep: (part: { x: number; y: number; width: number; height: number }) => void;
  onCancel: () => void;
  onBroken: () => void;
}

/** Chooses the part of a picture that becomes the banner, by dragging or by arrow keys. */
const Cropper = ({ address, busy, onKeep, onCancel, onBroken }: Props) => {
  const { t } = useTexts();
  const [crop, setCrop] = useState<PercentCrop>();
  return (
    <div className="cropper">
      <p className="quiet">{t('picture.choosePart')}</p>
      <ReactCrop
        crop={crop}
        aspect={RATIO}
        keepSelection
        ruleOfThirds
        ariaLabels={{
          cropArea: t('picture.part'),
          nwDragHandle: t('picture.corner'),
          nDragHandle: t('picture.corner'),
          neDragHandle: t('picture.corner'),
          eDragHandle: t('picture.corner'),
          seDragHandle: t('picture.corner'),
          sDragHandle: t('picture.corner'),
          swDragHandle: t('picture.corner'),
          wDragHandle: t('picture.corner'),
        }}
        onChange={(_, part) => setCrop(part)}
      >
        <img
          src={address}
          alt=""
          onError={onBroken}
          onLoad={(e) => {
            const { width, height } = e.currentTarget;
            setCrop(centerCrop(makeAspectCrop({ unit: '%', width: 100 }, RATIO, width, height), width, height));
          }}
        />
      </ReactCrop>
      <div className="picture-tools">
        <Button
          size="sm"
          disabled={busy || !crop}
          onClick={() =>
            crop && onKeep({ x: crop.x / 100, y: crop.y / 100, width: crop.width / 100, height: crop.height / 100 })
          }
        >
          {t('picture.keep')}
        </Button>
        <Button size="sm" variant="outline-primary" onClick={onCancel}>
          {t('cancel')}
        </Button>
      </div>
    </div>
  );
};

export default Cropper;
