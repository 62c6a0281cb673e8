package dev.entente.service.platform;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandler;
import java.net.http.HttpResponse.BodySubscriber;
import java.net.http.HttpTimeoutException;
import java.nio.ByteBuffer;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Flow;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;

/**
 * A call of a web service with a limit on its whole duration, for servers that stop after the headers or send a byte now and then.
 * {@link HttpRequest.Builder#timeout} only limits the time until the headers.
 */
public final class Exchange {
    private Exchange() {}

    /**
     * Calls, and reads the answer.
     *
     * @param whole from the first byte sent to the last one read
     * @param most bytes of the answer; what comes behind them is not waited for
     * @throws HttpTimeoutException if it takes longer
     */
    public static HttpResponse<byte[]> of(HttpClient client, HttpRequest request, Duration whole, int most)
            throws IOException, InterruptedException {
        var coming = client.sendAsync(request, first(most));
        try {
            return coming.get(whole.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            throw new HttpTimeoutException("the whole answer took too long");
        } catch (ExecutionException e) {
            throw e.getCause() instanceof IOException io ? io : new IOException(e.getCause());
        } finally {
            // Breaks off what is still on its way.
            coming.cancel(true);
        }
    }

    private static BodyHandler<byte[]> first(int most) {
        return answer -> new First(most);
    }

    private static final class First implements BodySubscriber<byte[]> {
        private final CompletableFuture<byte[]> body = new CompletableFuture<>();
        private final ByteArrayOutputStream read = new ByteArrayOutputStream();
        private final int most;
        private Flow.Subscription from;

        First(int most) {
            this.most = most;
        }

        @Override
        public CompletionStage<byte[]> getBody() {
            return body;
        }

        @Override
        public void onSubscribe(Flow.Subscription subscription) {
            from = subscription;
            from.request(1);
        }

        @Override
        public void onNext(List<ByteBuffer> parts) {
            for (var part : parts) {
                var bytes = new byte[Math.min(part.remaining(), most - read.size())];
                part.get(bytes);
                read.writeBytes(bytes);
            }
            if (read.size() == most) {
                from.cancel();
                onComplete();
            } else {
                from.request(1);
            }
        }

        @Override
        public void onError(Throwable thrown) {
            body.completeExceptionally(thrown);
        }

        @Override
        public void onComplete() {
            body.complete(read.toByteArray());
        }
    }
}
