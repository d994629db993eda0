// Pure: what the mouse, the wheel and a trackpad do, as the keys' sheet lists it beside the keys.

/** @type {{group: string, rows: [string, string][]}[]} what is done with the hand, and what comes of it */
export const HAND_MOVES = [
  {
    group: "Wheel and trackpad",
    rows: [
      ["Wheel", "Lanes up and down; over ruler and map: sideways"],
      ["Shift+wheel", "Sideways along the film"],
      ["Ctrl+wheel, pinch", "Zoom at the pointer"],
      ["Wheel on a fader", "With the gain line in hand, while it plays: ride the level"],
    ],
  },
  {
    group: "Mouse on the timeline",
    rows: [
      ["Drag a clip", "Move it, also to another lane"],
      ["… with Shift", "Slip: show another part of the media"],
      ["… with Ctrl", "Lay it over what is there"],
      ["… with Ctrl+Shift", "Insert it there: what follows makes room"],
      ["… with Alt", "Without snapping"],
      ["Drag an end", "Trim; over the clip beside it: a crossfade"],
      ["Drag an upper corner", "Fade in or out"],
      ["Ctrl+click", "Choose one more, or one less"],
      ["Shift+click", "Choose all up to there"],
      ["Drag on empty lane", "Choose what the frame touches"],
      ["Double click on a curve", "Add a point"],
      ["Drag in the ruler", "Move the playhead"],
      ["Drag a lane's grip", "Put the lane elsewhere"],
      ["Drag a lane's lower edge", "Make the lane higher or lower"],
      ["Right click", "What can be done here"],
    ],
  },
  {
    group: "Mouse elsewhere",
    rows: [
      ["Drag a media card", "Onto a lane: lay it there"],
      ["Drag in the dip picture", "Shape the dip"],
      ["Double click on a figure", "Back to the usual value"],
      ["Drag the tray's edge", "More or less room for the tray"],
    ],
  },
];
