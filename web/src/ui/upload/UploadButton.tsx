import { Upload } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Me } from "~/api/client";
import { Button } from "~/ui/Button";
import { ManyDialog } from "./ManyDialog";
import { type SetUpOf, UploadDialog } from "./UploadDialog";
import { useFileDrop } from "./useFileDrop";

export const ACCEPTED = "audio/*,.wav,.flac,.aif,.aiff,.ogg,.oga,.opus,.webm,.mp3,.m4a,.aac,.caf";

/** Adds a recording: by this button, by the key U, or by dropping a file anywhere on the page. */
export function UploadButton({
  me,
  drillId,
  setUpOf,
  label = "Add a recording",
}: {
  me: Me;
  drillId?: number;
  setUpOf?: SetUpOf;
  label?: string;
}) {
  const [files, setFiles] = useState<File[]>([]);
  const [file] = files;
  const input = useRef<HTMLInputElement>(null);
  const dragging = useFileDrop(setFiles);
  const choose = useCallback(() => input.current?.click(), []);
  useKey("u", choose);
  return (
    <>
      <Button kind="strong" onClick={choose}>
        <Upload size={16} aria-hidden />
        {label}
      </Button>
      <input
        ref={input}
        type="file"
        accept={ACCEPTED}
        multiple={setUpOf === undefined}
        className="sr-only"
        tabIndex={-1}
        aria-label="Recording"
        data-testid="recording"
        onChange={(event) => {
          setFiles([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      {dragging && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-md border-4 border-dashed border-ink bg-paper/85 text-2xl font-semibold">
          Let go to add the recording
        </div>
      )}
      {files.length > 1 && !setUpOf && (
        <ManyDialog me={me} files={files} drillId={drillId} onClose={() => setFiles([])} />
      )}
      {file && (files.length === 1 || setUpOf) && (
        <UploadDialog
          key={file.name + file.size}
          me={me}
          file={file}
          drillId={drillId}
          setUpOf={setUpOf}
          onClose={() => setFiles([])}
        />
      )}
    </>
  );
}

function useKey(key: string, act: () => void) {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof Element && event.target.closest("input, textarea, select, [role=dialog]");
      if (event.key.toLowerCase() !== key || typing || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [key, act]);
}
