#pragma once

#include "amp/change/change.h"

#include <QObject>
#include <string>

namespace vinegar::app {

class Session;

/// What is arranged: a section, or a place where one could stand. Neither: nothing in hand.
struct Piece {
  std::string section;
  std::optional<amp::Spot> place;
  bool operator==(const Piece&) const = default;
  [[nodiscard]] bool empty() const { return section.empty() && !place; }
};

/// What may be done with the piece in hand.
enum class PieceAct { choose, remove, moveLeft, moveRight, duplicate, insertBefore, insertAfter, putBeside };

/// The part that the builder has in hand, shared by run, drawer and pages; empty when there is none. It is always a
/// part of the document: one that goes is let go of.
class Selection : public QObject {
  Q_OBJECT
public:
  explicit Selection(const Session& session, QObject* parent = nullptr);

  [[nodiscard]] const std::string& part() const { return part_; }
  /// A name that the document does not have changes nothing; an empty one puts down what is in hand.
  void select(const std::string& part);
  /// A part's section is taken with it.
  [[nodiscard]] const Piece& piece() const { return piece_; }
  void take(Piece piece);
  /// Asks whoever arranges to do it.
  void want(PieceAct act) { Q_EMIT actWanted(act); }
  /// The span of the signal that is looked at, by probe names; jack to speaker at first.
  struct Span {
    std::string from = "jack", to = "speaker";
    bool operator==(const Span&) const = default;
  };
  [[nodiscard]] const Span& span() const { return span_; }
  void lookAt(Span span);

  /// What is played into the jack, for whoever shows levels and waves.
  struct Played {
    double inputPeak = 0.1 * 1.41421356; ///< volts; at first what the design's own source gives at an ordinary level
    double hertz = 1000;                 ///< 0: the worst over the instrument's range
    /// For whoever can show one frequency only.
    [[nodiscard]] double tone() const { return hertz > 0 ? hertz : 1000; }
    bool operator==(const Played&) const = default;
  };
  [[nodiscard]] const Played& played() const { return played_; }
  void play(Played played);

Q_SIGNALS:
  void playedChanged();
  /// Also when the same part is selected again.
  void selected();
  void spanChanged();
  void pieceTaken();
  void actWanted(PieceAct act);

private:
  [[nodiscard]] bool exists(const std::string& part) const;
  void letGo(); ///< of the part, not of the piece

  const Session& session_;
  std::string part_;
  Span span_;
  Piece piece_;
  Played played_;
};

} // namespace vinegar::app
