import {
  QueryClient,
  type InvalidateOptions,
  type InvalidateQueryFilters,
  type Query,
  type QueryKey,
  type SetDataOptions,
} from '@tanstack/react-query';

/**
 * What was asked of the server, and never an answer that is older than what is known: whatever was on its way when something
 * changed may have been answered before, and is asked for once more.
 */
export class Queries extends QueryClient {
  private readonly again = new WeakMap<Query, Promise<void>>();

  override async invalidateQueries(
    filters: InvalidateQueryFilters = {},
    options: InvalidateOptions = {},
  ): Promise<void> {
    // Begins by itself anew only what has an answer and is on the screen; of the others what comes would count as young.
    const coming = this.getQueryCache()
      .findAll(filters)
      .filter((q) => q.state.fetchStatus === 'fetching' && (q.state.data === undefined || !q.isActive()));
    await Promise.all([
      super.invalidateQueries(filters, options),
      ...coming.map((query) => this.onceMore(query, filters.refetchType, options)),
    ]);
  }

  override setQueryData = ((queryKey: QueryKey, now: unknown, options?: SetDataOptions) => {
    const shown = super.setQueryData(queryKey, now, options);
    if (this.isFetching({ queryKey, exact: true }) > 0) void this.invalidateQueries({ queryKey, exact: true });
    return shown;
  }) as QueryClient['setQueryData'];

  private onceMore(query: Query, refetchType: InvalidateQueryFilters['refetchType'], options: InvalidateOptions) {
    const waiting = this.again.get(query);
    if (waiting) return waiting;
    const again = query
      .fetch()
      .catch(() => undefined)
      .then(() => {
        this.again.delete(query);
        return super.invalidateQueries(
          { queryKey: query.queryKey, exact: true, ...(refetchType && { refetchType }) },
          options,
        );
      });
    this.again.set(query, again);
    return again;
  }
}
