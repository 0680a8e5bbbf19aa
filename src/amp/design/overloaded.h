#pragma once

namespace vinegar::amp {

/// Several lambdas as one visitor of a variant.
template <class... F> struct Overloaded : F... { using F::operator()...; };
template <class... F> Overloaded(F...) -> Overloaded<F...>;

} // namespace vinegar::amp
