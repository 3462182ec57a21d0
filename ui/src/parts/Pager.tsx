import { ChevronLeft, ChevronRight } from "lucide-react";

interface Props {
  what: string;
  page: number;
  pages: number;
  onPage: (page: number) => void;
}

/** Goes through a long list a page at a time. */
export function Pager({ what, page, pages, onPage }: Props) {
  if (pages < 2) return null;
  return (
    <nav aria-label={`Pages of ${what}`} className="mb-1 flex items-center gap-1 text-note">
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square"
        aria-label={`Earlier ${what}`}
        disabled={page === 0}
        onClick={() => onPage(page - 1)}
      >
        <ChevronLeft size={14} aria-hidden />
      </button>
      <span className="figures">
        {page + 1} of {pages}
      </span>
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square"
        aria-label={`Later ${what}`}
        disabled={page === pages - 1}
        onClick={() => onPage(page + 1)}
      >
        <ChevronRight size={14} aria-hidden />
      </button>
    </nav>
  );
}
