import type Feature from "ol/Feature";
import MultiPoint from "ol/geom/MultiPoint";
import Polygon from "ol/geom/Polygon";
import CircleStyle from "ol/style/Circle";
import Fill from "ol/style/Fill";
import Stroke from "ol/style/Stroke";
import Style from "ol/style/Style";

/** How an outline looks while it is drawn: seen on any ground. */
export const sketched = [
  new Style({ stroke: new Stroke({ color: "#000", width: 4 }) }),
  new Style({ stroke: new Stroke({ color: "#fff", width: 1.8 }) }),
];

/** The points of an outline, to be taken hold of. */
export const handles = [
  new Style({
    image: new CircleStyle({
      radius: 4,
      fill: new Fill({ color: "#fff" }),
      stroke: new Stroke({ color: "#000", width: 1.5 }),
    }),
    geometry: (feature) => {
      const drawn = (feature as Feature).getGeometry();
      return drawn instanceof Polygon
        ? new MultiPoint((drawn.getCoordinates()[0] ?? []).slice(0, -1))
        : drawn;
    },
  }),
];
