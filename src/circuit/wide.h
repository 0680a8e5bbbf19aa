#pragma once

/// Functions that work on eight lanes are compiled for several widths of vector unit and picked at start.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(VINEGAR_NO_TARGET_CLONES)
#define VINEGAR_WIDE __attribute__((target_clones("default", "avx2,fma", "arch=x86-64-v4")))
#else
#define VINEGAR_WIDE
#endif
