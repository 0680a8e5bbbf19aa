#pragma once

#include <QString>
#include <qcustomplot.h>

namespace vinegar::app {

/// Colours and letters of the theme on every axis of a plot.
void dressPlot(QCustomPlot& plot);
/// SVG, PDF, PNG by the file's ending, or CSV with `figures`. Empty on success, else why not.
QString savePlot(QCustomPlot& plot, const QString& path, const QString& title, const std::string& figures);
/// As askWhereToSave, for the four kinds that savePlot knows.
QString askWhereToSavePlot(QWidget* parent, const QString& title, const QString& proposed);
/// Picture and figures both.
void copyPlot(QCustomPlot& plot, const std::string& figures);

} // namespace vinegar::app
