// What the screens read and do besides a job itself, over react-query.

import { useMutation, useQuery, useQueryClient, type UseMutationResult } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, got, type Me, type OfferedProfile, type Condition, type Shop, type Vocabulary } from "./client";

export const useMe = () =>
  useQuery({ queryKey: ["me"], queryFn: () => got<Me>(client.GET("/api/me")), staleTime: 60_000 });
export const useCondition = () =>
  useQuery({
    queryKey: ["condition"],
    queryFn: () => got<Condition>(client.GET("/api/condition")),
    refetchInterval: 15_000,
  });
export const useVocabulary = () =>
  useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => got<Vocabulary>(client.GET("/api/vocabulary")),
    staleTime: Infinity,
  });
export const useProfiles = () =>
  useQuery({ queryKey: ["profiles"], queryFn: () => got<OfferedProfile[]>(client.GET("/api/profiles")) });
export const useShop = () =>
  useQuery({ queryKey: ["shop"], queryFn: () => got<Shop>(client.GET("/api/shop")), staleTime: 60_000 });

/** Languages of the owner's page, the shop's own first. */
export const useReportLanguages = () =>
  useQuery({
    queryKey: ["report-languages"],
    queryFn: () => got<{ id: string; name: string }[]>(client.GET("/api/report-languages")),
    staleTime: 60_000,
  });

/** How the shop writes a time: in its own zone, whatever the browser's is. */
export function useWhen(): (at: string) => string {
  const zone = useShop().data?.time_zone;
  return (at) =>
    new Date(at).toLocaleString([], { dateStyle: "medium", timeStyle: "short", ...(zone && { timeZone: zone }) });
}

/** The time of day alone, in the shop's zone. */
export function useClockTime(): (at: string) => string {
  const zone = useShop().data?.time_zone;
  return (at) => new Date(at).toLocaleTimeString([], { timeStyle: "short", ...(zone && { timeZone: zone }) });
}

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) => got<Me>(client.POST("/api/session", { body })),
    onSuccess: (me) => {
      queries.setQueryData(["me"], me);
    },
  });
}

export function useSignOut(): () => void {
  const queries = useQueryClient();
  return () => {
    void got<Me>(client.DELETE("/api/session")).then((me) => {
      queries.setQueryData(["me"], me);
      queries.removeQueries({ queryKey: ["jobs"] });
    });
  };
}

interface Heard<D> {
  onSuccess?: (data: D) => void;
  onError?: (error: Error) => void;
  onSettled?: () => void;
}

/** The same mutation, except that a value which is still on its way is not sent again: a double click does one thing. And each call
 * hears of its own end, also when another call was made meanwhile (the library tells only the last one); not after the screen has gone. */
export function useSingle<D, T>(mutation: UseMutationResult<D, Error, T>) {
  const underway = useRef(new Set<string>());
  const there = useRef(true);
  useEffect(() => {
    there.current = true;
    return () => {
      there.current = false;
    };
  }, []);
  const mutate = (value: T, options: Heard<D> = {}) => {
    const key = JSON.stringify(value ?? null);
    if (underway.current.has(key)) return;
    underway.current.add(key);
    mutation.mutateAsync(value).then(
      (data) => {
        underway.current.delete(key);
        if (!there.current) return;
        options.onSuccess?.(data);
        options.onSettled?.();
      },
      (error: Error) => {
        // shown from mutation.error
        underway.current.delete(key);
        if (!there.current) return;
        options.onError?.(error);
        options.onSettled?.();
      },
    );
  };
  return { ...mutation, mutate };
}
