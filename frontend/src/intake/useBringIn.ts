import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Understanding } from "../api/client";
import { bringIn } from "./bringing";
import type { Work } from "../api/waiting";

/** Bringing a file in, followed as it is read, and on to its intake. */
export function useBringIn() {
  const [received, setReceived] = useState<Understanding>();
  const [reading, setReading] = useState<Work>();
  const navigate = useNavigate();
  const bring = useMutation({
    mutationFn: (source: File | string) => bringIn(source, setReading),
    onSuccess: (answer) => {
      setReceived(answer);
      void navigate(`/intake/${answer.dataset.id}`);
    },
    onSettled: () => setReading(undefined),
  });
  return { received, busy: bring.isPending, reading, error: bring.error, onFile: bring.mutate };
}
