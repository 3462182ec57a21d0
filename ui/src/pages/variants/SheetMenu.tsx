import { ChevronDown } from "lucide-react";
import { Dropdown } from "../../parts/Dropdown";

interface MenuProps {
  label: string;
  icon: React.ReactNode;
  off?: boolean;
  children: React.ReactNode;
}

/** Entries that a press opens. */
export function SheetMenu({ label, icon, off, children }: MenuProps) {
  if (off)
    return (
      <button type="button" className="btn btn-sm" disabled>
        {icon} {label}
      </button>
    );
  return (
    <Dropdown
      className="btn btn-sm"
      summary={
        <>
          {icon} {label} <ChevronDown size={14} aria-hidden />
        </>
      }
    >
      {() => (
        <ul className="dropdown-content menu z-30 mt-1 w-64 rounded-box border rule bg-base-100 p-1 shadow-lg">
          {children}
        </ul>
      )}
    </Dropdown>
  );
}
