/** A calendar's mark. The pattern follows from the class on the element around it. */
export const Spine = () => <span className="spine" aria-hidden="true" />;

export const markClass = (mark: number): string => `mark-${mark}`;

/** The marks there are. */
export const MARKS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12];
