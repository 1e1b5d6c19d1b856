import { useCallback, useRef, useState } from "react";
import { useSearchParams } from "react-router";

/**
 * Fields of a form that the address holds, so that it can be shared. What is typed is kept here first: the router
 * follows a moment later, and a field that waited for it would lose letters. Only what differs from the defaults
 * stands in the address.
 */
export function useQueryFields(
  defaults: Record<string, string>,
): [Record<string, string>, (part: Record<string, string>) => void] {
  const [query, setQuery] = useSearchParams();
  const [fields, setFields] = useState(() => ({ ...defaults, ...known(query, defaults) }));
  const newest = useRef(fields);
  const change = useCallback(
    (part: Record<string, string>) => {
      newest.current = { ...newest.current, ...part };
      setFields(newest.current);
      setQuery(shortQuery(newest.current, defaults), { replace: true });
    },
    [defaults, setQuery],
  );
  return [fields, change];
}

/** The fields that differ from their defaults, as a query. */
export function shortQuery(fields: Record<string, string>, defaults: Record<string, string>): string {
  const query = new URLSearchParams();
  for (const [name, text] of Object.entries(fields)) if (text !== defaults[name]) query.set(name, text);
  return query.toString();
}

function known(query: URLSearchParams, defaults: Record<string, string>): Record<string, string> {
  return Object.fromEntries([...query].filter(([name]) => name in defaults));
}
