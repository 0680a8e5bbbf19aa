#pragma once

#include "tubes/published.h"

namespace vinegar::tubes {

/// Fits the model of `type` to its published points by weighted least squares over the logarithms of model / published,
/// with mild priors that stand in where a tube has few points (docs/tube-models.md lists weights and priors). The model
/// already in `type` serves for nothing but its kind; the same points always give the same parameters. A type without
/// points, or whose points cannot be fitted, is a Problem; so is a rectifier, whose law is its published drop.
tl::expected<Model, Problem> fitModel(const TubeType& type);

} // namespace vinegar::tubes
