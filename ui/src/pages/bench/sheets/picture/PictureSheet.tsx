import { useQuery } from "@tanstack/react-query";
import { recipesQuery } from "../../../../api/fileQueries";
import { FormRows } from "../../../../form/FormRows";
import { LabelList } from "../../../../form/LabelList";
import { Fold } from "../../../../parts/Fold";
import { useBench } from "../../context";
import { useLooks } from "../../useLooks";
import { BackgroundRows } from "./BackgroundRows";
import { PassRows } from "./PassRows";

/** Size, samples, passes, background, light and labels. */
export function PictureSheet() {
  const { shot, edit } = useBench();
  const { data } = useQuery(recipesQuery);
  const recipes = (data?.recipes ?? []).filter((recipe) => !recipe.own);
  return (
    <FormRows
      form="picture"
      values={shot.document}
      known={{
        looks: useLooks(shot) ?? false,
        recipes: recipes.map((recipe) => ({ value: recipe.name, label: recipe.about })),
      }}
      special={{
        passes: () => <PassRows shot={shot} edit={edit} />,
        background: () => <BackgroundRows shot={shot} edit={edit} />,
        labels: () => (
          <Fold heading="Labels on the frames">
            <LabelList
              labels={shot.document.labels}
              onChange={(make) => edit({ labels: make(shot.document.labels) }, "the labels")}
            />
            <p className="quiet text-note leading-snug">
              Fields: {"{frame} {number} {count} {phase:.2f} {seconds:.1f} {timecode} {value}"}, or a dial by
              its name. They become part of the picture.
            </p>
          </Fold>
        ),
      }}
      onSet={edit}
    />
  );
}
