// Two entries of a register are one: the other is found by its name, and joined once somebody has said so twice.

import { Autocomplete, TextField } from "@mui/material";
import { useState } from "react";
import { Confirm } from "../parts/Confirm";

export function SameAs<T extends { id: number }>({
  own,
  options,
  name,
  what,
  goes,
  onWords,
  onMerge,
}: {
  own: T;
  options: readonly T[];
  name: (entry: T) => string;
  /** 'panel' or 'device'. */
  what: string;
  /** What of the other one comes over, such as 'its names and jobs come'. */
  goes: string;
  onWords: (words: string) => void;
  onMerge: (otherId: number) => void;
}) {
  const [merging, setMerging] = useState<T | null>(null);
  return (
    <>
      <Autocomplete
        size="small"
        sx={{ minWidth: 240 }}
        options={options.filter((entry) => entry.id !== own.id)}
        filterOptions={(all) => all}
        getOptionLabel={name}
        getOptionKey={(entry) => entry.id}
        value={null}
        onInputChange={(_, text) => {
          onWords(text);
        }}
        onChange={(_, other) => {
          setMerging(other);
        }}
        renderInput={(params) => <TextField {...params} label="Is the same as ..." />}
      />
      {merging && (
        <Confirm
          title={`Make them one ${what}?`}
          text={`${name(merging)} goes; ${goes} to ${name(own)}.`}
          action="Make them one"
          onConfirm={() => {
            onMerge(merging.id);
          }}
          onClose={() => {
            setMerging(null);
          }}
        />
      )}
    </>
  );
}
