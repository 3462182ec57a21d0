import { useMutation, useQueryClient } from "@tanstack/react-query";
import { body, client, type Output } from "../../api/client";
import { DeleteDialog } from "../../parts/DeleteDialog";
import { size } from "../../parts/format";

/** Deletes a file, or only its entry where the file is gone, was changed, or is a folder elsewhere. */
export function DeleteFile({ output }: { output: Output }) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      body(client.DELETE("/api/outputs/{output_id}", { params: { path: { output_id: output.id } } })),
    onSuccess: () => {
      for (const key of ["outputs", "run", "runs", "shots"])
        void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const bytes = size(output.receipt?.bytes ?? 0);
  const verb = output.deletes ? "Delete" : "Remove from the list";
  return (
    <DeleteDialog
      text={verb}
      label={`${verb}: ${output.file}`}
      heading={`${verb}: ${output.file}`}
      title={verb}
      confirm={remove.isPending ? null : output.deletes ? `Delete, free ${bytes}` : verb}
      error={remove.error}
      onConfirm={() => remove.mutate()}
    >
      {output.deletes
        ? `${output.folder ? "All files in " : ""}${output.path} ${output.folder ? "are" : "is"} deleted. The frames of the take stay, so you can make the file again.`
        : output.state === "done"
          ? `Only the entry goes. ${output.folder ? "The folder" : "A file of that name"} stays where it is: ${output.path}`
          : "Only the entry goes: no file was made."}
    </DeleteDialog>
  );
}
