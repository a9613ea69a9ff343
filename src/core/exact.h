// Included first where the last bit matters: products and sums are rounded each for itself, on whatever compiler.
#ifndef ENSAYO_CORE_EXACT_H
#define ENSAYO_CORE_EXACT_H

#if defined(__clang__)
#pragma clang fp contract(off)
#elif defined(__GNUC__)
#pragma GCC optimize("fp-contract=off")
#endif

#endif
