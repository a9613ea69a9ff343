// Included first where loops are worth unrolling; it changes no bit.
#ifndef ENSAYO_CORE_FAST_H
#define ENSAYO_CORE_FAST_H

#if defined(__GNUC__) && !defined(__clang__)
#pragma GCC optimize("O3")
#endif

#endif
