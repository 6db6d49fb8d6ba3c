/** A calendar's mark. The pattern follows from the class on the element around it. */
export const Spine = () => <span className="spine" aria-hidden="true" />;

export const markClass = (mark: number): string => `mark-${mark}`;
