// The people of the shop, for its leads: who can sign in, and as what.

import {
  Alert,
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Person, type PersonChange } from "../api/client";
import { useMe } from "../api/hooks";
import { ErrorNote, Waiting } from "../parts/notes";

const ROLES = [
  ["technician", "Technician"],
  ["lead", "Lead"],
] as const;
type Role = (typeof ROLES)[number][0];
const roleOf = (person: Person): Role => (person.roles.includes("lead") ? "lead" : "technician");
const PASSWORD_WORDS = "At least 10 characters, and none of the common ones";

function RoleField({ value, onChange }: { value: Role; onChange: (role: Role) => void }) {
  return (
    <TextField
      select
      label="Role"
      value={value}
      onChange={(event) => {
        onChange(event.target.value as Role);
      }}
      helperText="A lead also reopens jobs, and changes people, rules and acceptance"
    >
      {ROLES.map(([id, title]) => (
        <MenuItem key={id} value={id}>
          {title}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** Add a person, or set a known one a new password. */
function PersonDialog({ person, onClose }: { person: Person | null; onClose: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(person?.name ?? "");
  const [password, setPassword] = useState("");
  const [role, setRole] = useState<Role>("technician");
  const save = useMutation({
    mutationFn: () =>
      person
        ? got(
            client.PATCH("/api/people/{person_id}", { params: { path: { person_id: person.id } }, body: { password } }),
          )
        : got(client.POST("/api/people", { body: { name, password, role } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["people"] });
      onClose();
    },
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <DialogTitle>{person ? `New password for ${person.name}` : "Add a person"}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          {!person && (
            <TextField
              label="Name"
              required
              autoFocus
              autoComplete="off"
              value={name}
              sx={{ mt: 1 }}
              slotProps={{ htmlInput: { maxLength: 150 } }}
              onChange={(event) => {
                setName(event.target.value);
              }}
            />
          )}
          <TextField
            label={person ? "New password" : "First password"}
            required
            type="password"
            autoComplete="new-password"
            value={password}
            sx={{ mt: person ? 1 : 0 }}
            helperText={PASSWORD_WORDS}
            slotProps={{ htmlInput: { maxLength: 200 } }}
            onChange={(event) => {
              setPassword(event.target.value);
            }}
          />
          {!person && <RoleField value={role} onChange={setRole} />}
          {person && (
            <Typography variant="body2" color="textSecondary">
              It signs {person.name} out everywhere; codes that {person.name} made end too.
            </Typography>
          )}
          <ErrorNote error={save.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={save.isPending || !password || !name.trim()}>
            {person ? "Set the password" : "Add"}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

function Row({ person, self, onPassword }: { person: Person; self: boolean; onPassword: () => void }) {
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (body: PersonChange) =>
      got(client.PATCH("/api/people/{person_id}", { params: { path: { person_id: person.id } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["people"] }),
  });
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: "divider", py: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        <Typography sx={{ fontWeight: 600, minWidth: 140, flex: 1, overflowWrap: "anywhere" }}>
          {person.name}
          {self ? " (you)" : ""}
          {person.active ? "" : ", cannot sign in"}
        </Typography>
        <TextField
          select
          label="Role"
          value={roleOf(person)}
          disabled={change.isPending}
          sx={{ width: 150 }}
          onChange={(event) => {
            change.mutate({ role: event.target.value as Role });
          }}
        >
          {ROLES.map(([id, title]) => (
            <MenuItem key={id} value={id}>
              {title}
            </MenuItem>
          ))}
        </TextField>
        <Button variant="outlined" onClick={onPassword}>
          New password
        </Button>
        {!self && (
          <Button
            disabled={change.isPending}
            onClick={() => {
              change.mutate({ active: !person.active });
            }}
          >
            {person.active ? "End the access" : "Give the access back"}
          </Button>
        )}
      </Box>
      <ErrorNote error={change.error} />
    </Box>
  );
}

export function People() {
  const me = useMe();
  const lead = me.data?.roles.includes("lead") ?? false;
  const people = useQuery({
    queryKey: ["people"],
    queryFn: () => got<Person[]>(client.GET("/api/people")),
    enabled: lead,
  });
  const [asked, setAsked] = useState<Person | "new" | null>(null);
  if (!lead)
    return (
      <Alert severity="info" variant="outlined" sx={{ m: 2 }}>
        A lead adds people and changes what they may do. Your own password is under &apos;Me&apos;.
      </Alert>
    );
  if (!people.data) return people.error ? <ErrorNote error={people.error} /> : <Waiting words="Loading the people" />;
  return (
    <Box sx={{ p: 2, maxWidth: 820 }}>
      <Button
        variant="contained"
        onClick={() => {
          setAsked("new");
        }}
      >
        Add a person
      </Button>
      <Box component="ul" aria-label="People" sx={{ listStyle: "none", p: 0, mt: 2 }}>
        {people.data.map((person) => (
          <Row
            key={person.id}
            person={person}
            self={person.name === me.data?.name}
            onPassword={() => {
              setAsked(person);
            }}
          />
        ))}
      </Box>
      {asked && (
        <PersonDialog
          person={asked === "new" ? null : asked}
          onClose={() => {
            setAsked(null);
          }}
        />
      )}
    </Box>
  );
}
