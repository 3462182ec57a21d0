import { NavLink, useLocation, useParams } from "react-router";
import { GuideText } from "./GuideText";
import { GUIDES } from "./guides";

/** A guide, with the others beside it; served by Vexel itself. */
export function GuidePage() {
  const { name = GUIDES[0].name } = useParams();
  const { hash } = useLocation();
  const link = ({ isActive }: { isActive: boolean }) =>
    `block rounded px-2 py-1 ${isActive ? "bg-primary font-semibold text-primary-content" : "hover:bg-base-200"}`;
  return (
    <div className="mx-auto grid max-w-6xl grid-cols-[220px_1fr] gap-8 px-6 py-5 max-lg:grid-cols-1">
      <nav aria-label="Guides" className="sticky top-5 self-start text-body max-lg:static">
        {GUIDES.map((guide) => (
          <NavLink key={guide.name} to={`/guides/${guide.name}`} className={link}>
            {guide.title}
          </NavLink>
        ))}
        <NavLink to="/guides/shortcuts" className={link}>
          Keyboard shortcuts
        </NavLink>
      </nav>
      <GuideText
        name={name}
        anchor={hash.slice(1)}
        to={(other, anchor) => `/guides/${other}${anchor && `#${anchor}`}`}
      />
    </div>
  );
}
