#pragma once

#include <qcustomplot.h>

namespace vinegar::app {

/// Takes words from ticks whose labels would lie on the one before; along the foot their words are first put below each
/// other.
void keepTicksClear(const QCPAxis& axis, const QVector<double>& ticks, QVector<QString>& labels);

/// A ticker whose labels never lie on each other.
template <class Ticker> class ClearTicks : public Ticker {
public:
  explicit ClearTicks(const QCPAxis* axis) : axis_(axis) {}
  void generate(const QCPRange& range, const QLocale& locale, QChar format, int precision, QVector<double>& ticks,
                QVector<double>* subTicks, QVector<QString>* labels) override {
    Ticker::generate(range, locale, format, precision, ticks, subTicks, labels);
    if (labels) keepTicksClear(*axis_, ticks, *labels);
  }

private:
  const QCPAxis* axis_;
};

} // namespace vinegar::app
