import { Copy } from "lucide-react";
import { useRef, useState } from "react";
import { Button } from "./Button";

/** A link that is shown this once: it can be copied, and what it is good for is said. */
export function LinkOnce({ link, says }: { link: string; says: string }) {
  const [copied, setCopied] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(link);
      setCopied(true);
    } catch {
      // Not allowed, or not there beyond this machine without https: it is selected, for Ctrl+C.
      field.current?.focus();
      field.current?.select();
    }
  };
  return (
    <div className="my-3 border-l-4 border-ink bg-sheet px-4 py-3" role="status">
      <p className="mb-2 text-sm">{says}</p>
      <div className="flex gap-2">
        <input
          ref={field}
          className="figures min-h-9 w-full min-w-0 rounded-md border border-rule-strong bg-paper px-2 text-sm"
          aria-label="Link"
          data-testid="link"
          readOnly
          value={link}
          onFocus={(event) => event.target.select()}
        />
        <Button onClick={() => void copy()}>
          <Copy size={16} aria-hidden />
          {copied ? "Copied" : "Copy"}
        </Button>
      </div>
    </div>
  );
}
