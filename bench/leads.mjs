// Writes a CSV of made-up leads: node bench/leads.mjs 200000 > leads.csv. Every second one has a telephone number, each a
// number of its own from the range kept for fiction in Ireland (ComReg, 020 91x xxxx); all have an address of their own.
const rows = Number(process.argv[2] ?? 200000);
const out = [];
out.push("Full name,Email,Phone,Company,Fleet size,Submitted");
for (let i = 0; i < rows; i++) {
  const phone = i % 2 === 0 && i / 2 < 100_000 ? `020 91${String(i / 2).padStart(5, "0")}` : "";
  const day = String((i % 28) + 1).padStart(2, "0");
  out.push(`Maren Underhay,maren.${i}@example.org,${phone},Underhay Works ${i % 977},${["1–3", "4–9", "25+"][i % 3]},2026-09-${day}T10:00:00Z`);
  if (out.length === 10_000) process.stdout.write(`${out.splice(0).join("\n")}\n`);
}
process.stdout.write(`${out.join("\n")}\n`);
