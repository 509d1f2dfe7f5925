import { Button, type ButtonProps } from "antd";
import { type ReactNode, useRef } from "react";

interface Props {
  /** Of the file input, for those who cannot see it. */
  label: string;
  accept: string;
  several?: boolean;
  onFiles: (files: File[]) => void;
  children: ReactNode;
  type?: ButtonProps["type"];
  size?: ButtonProps["size"];
  loading?: boolean;
}

/** A button that asks for files. */
export function FileDoor({ label, accept, several = false, onFiles, children, ...button }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple={several}
        accept={accept}
        aria-label={label}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = "";
          if (files.length) onFiles(files);
        }}
      />
    </>
  );
}
