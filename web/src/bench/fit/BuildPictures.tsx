// Small drawings of what a question asks for: ours, of lines only.

const LID = <rect x={6} y={8} width={88} height={54} rx={5} />;
const PHONE = <rect x={32} y={4} width={36} height={64} rx={6} />;

/** By question and answer; an answer without one is told by its words alone. */
export const PICTURES: Record<string, React.ReactNode> = {
  "front bezel": (
    <>
      {LID}
      <rect x={16} y={17} width={68} height={36} />
      <path d="M16 17L6 8M84 17L94 8M16 53L6 62M84 53L94 62" strokeWidth={1} />
    </>
  ),
  "front taped": (
    <>
      {LID}
      <rect x={12} y={13} width={76} height={42} strokeDasharray="5 3" />
    </>
  ),
  "front glass": (
    <>
      {LID}
      <path d="M22 46L40 20M34 50L52 24" strokeWidth={1} />
    </>
  ),
  "lid_seam seam": (
    <>
      {LID}
      <rect x={10} y={12} width={80} height={46} rx={3} strokeDasharray="2 2" />
      <circle cx={24} cy={60} r={2.5} />
      <circle cx={76} cy={60} r={2.5} />
    </>
  ),
  "lid_seam closed": LID,
  "held front": (
    <>
      <rect x={14} y={16} width={72} height={40} />
      {[22, 78].flatMap((x) =>
        [11, 61].map((y) => (
          <g key={`${x} ${y}`}>
            <rect x={x - 6} y={y - 5} width={12} height={10} />
            <circle cx={x} cy={y} r={2} />
          </g>
        )),
      )}
    </>
  ),
  "held sides": (
    <>
      <rect x={20} y={12} width={60} height={48} />
      {[12, 82].flatMap((x) => [
        <rect key={x} x={x} y={14} width={6} height={44} />,
        ...[22, 36, 50].map((y) => <path key={`${x} ${y}`} d={x < 50 ? `M4 ${y}H12` : `M88 ${y}H96`} />),
      ])}
    </>
  ),
  "held strips": (
    <>
      <rect x={14} y={12} width={72} height={46} />
      <path d="M32 14V56M68 14V56" strokeWidth={6} strokeDasharray="4 2" />
      <path d="M32 58V68M68 58V68" strokeWidth={3} />
    </>
  ),
  "new_part bare": <>{PHONE}</>,
  "new_part framed": (
    <>
      {PHONE}
      <rect x={27} y={0} width={46} height={72} rx={8} strokeWidth={3} />
      <path d="M76 20V32" strokeWidth={3} />
    </>
  ),
  "plugs inside": (
    <>
      {PHONE}
      <path d="M50 22H60V16M40 40H62V60H40Z" />
      <rect x={54} y={12} width={10} height={6} fill="currentColor" />
    </>
  ),
  "plugs behind": (
    <>
      {PHONE}
      <path d="M36 58H64" strokeWidth={3} />
      <path d="M50 58V66" strokeDasharray="3 2" />
    </>
  ),
  "way_out front": (
    <>
      <path d="M62 6H72V66H62" />
      <path d="M54 10V62" strokeWidth={3} />
      <path d="M46 36H26M32 30L26 36L32 42" />
    </>
  ),
  "way_out behind": (
    <>
      <path d="M38 6H28V66H38" />
      <path d="M44 10V62" strokeWidth={3} />
      <path d="M52 36H74M68 30L74 36L68 42" />
    </>
  ),
};

export function BuildPicture({ question, answer }: { question: string; answer: string }) {
  const drawn = PICTURES[`${question} ${answer}`];
  if (!drawn) return null;
  return (
    <svg viewBox="0 0 100 72" aria-hidden style={{ width: 100, height: 72, flex: "none" }}>
      <g fill="none" stroke="currentColor" strokeWidth={2}>
        {drawn}
      </g>
    </svg>
  );
}
